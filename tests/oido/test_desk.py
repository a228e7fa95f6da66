"""The marking desk: the queue, accepting, releasing, asking again, clear cases; and what is said back."""

from datetime import timedelta
from unittest.mock import patch

from django.test import Client, TestCase
from django.utils import timezone

from ear.criteria.levels import LEVELS
from ear.judging.judgement import TeacherScore
from ear.judging.settings import TakeSettings
from ear.players.robot import Habits
from oido.common.permissions import NotAllowed
from oido.feedback import remarks as talk
from oido.marking.hand_in import TooLate, hand_in
from oido.marking.history import standing_of, state_of
from oido.marking.models import MarkSheet, Phrase
from oido.marking.queue import Queue, queued, sort_cases
from oido.marking.services import NotMarkedYet, accept, give_help, give_score, release, set_for_take
from oido.rubrics.services import make_rubric
from oido.takes.judging import judged
from oido.takes.models import Take
from tests.ear.parts import beat
from tests.ear.test_rubrics import OWN
from tests.oido import factories
from tests.oido.clients import DeskClient

HTMX = {"headers": {"HX-Request": "true"}}


class DeskTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.students = [factories.student(first=name) for name in ("Ada", "Ben", "Cem")]
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        cls.takes = [factories.handed_in(student, cls.given) for student in cls.students]

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def client_of(self, student) -> Client:
        client = Client()
        client.force_login(student)
        return client

    def test_a_mark_close_to_a_band_is_looked_at(self) -> None:
        def reasons() -> set[str]:
            cases = sort_cases(self.teacher, self.given)
            return {str(reason) for case in cases.others for reason in case.reasons}

        with patch("oido.marking.queue.BORDER", -1.0):
            self.assertNotIn("close to the next band", reasons())
        with patch("oido.marking.queue.BORDER", 100.0):
            self.assertIn("close to the next band", reasons())

    def names(self, **query) -> list[str]:
        return [take.student.first_name for take in queued(self.teacher, Queue(**query))]

    def test_what_another_window_changed_is_told_and_nothing_is_done(self) -> None:
        take = self.takes[0]
        url, state = f"/takes/{take.pk}/", self.state(take)
        acts = {
            "accept/": {}, "again/": {"why": "Bar 2, please."}, "mark/notes/": {"score": "50", "why": "I heard it."},
            "mark/timing/": {"back": "1"}, "help/": {"help": "1"}, "say/": {"place": "t0", "said": "right"},
            "mark-again/": {"agree": "1"}, "take-back/": {},
            "try/": {**self.form_data(self.client.get(f"{url}try/").context["try_form"]), "keep": "1"},
        }  # fmt: skip
        release(self.teacher, take)
        before = MarkSheet.objects.get(take=take)
        for path, data in acts.items():
            for stale in (state, ""):
                with self.subTest(path=path, stale=stale):
                    answer = self.client.post(url + path, {**data, "state": stale}, follow=True)
                    self.assertContains(answer, "released by", status_code=answer.status_code)
                    after = MarkSheet.objects.get(take=take)
                    self.assertEqual(standing_of(after), standing_of(before))
        # What was typed stays.
        said = self.client.post(
            url + "mark/notes/", {"score": "50", "why": "I heard it.", "state": state}, **HTMX
        )
        self.assertContains(said, "I heard it.", status_code=422)
        self.assertContains(said, "Nothing was done, because the mark has changed", status_code=422)

    def test_of_two_scores_that_pass_each_other_the_second_is_not_lost_in_silence(self) -> None:
        take = self.takes[0]
        state = self.state(take)
        url = f"/takes/{take.pk}/mark/"
        self.client.post(url + "notes/", {"score": "50", "why": "first", "state": state})
        answer = self.client.post(url + "notes/", {"score": "90", "why": "second", "state": state}, **HTMX)
        self.assertContains(answer, "changed by", status_code=422)
        self.assertEqual(MarkSheet.objects.get(take=take).changes["notes"]["score"], 50)

    def test_an_undo_is_told_in_what_was_done_and_undoes_its_own_act_alone(self) -> None:
        take = self.takes[0]
        accept(self.teacher, take)
        release(self.teacher, take)
        # Accepting what is accepted changes nothing: there is nothing to undo.
        answer = self.client.post(f"/takes/{take.pk}/accept/", follow=True)
        self.assertNotContains(answer, "/marking/undo/")
        change = MarkSheet.objects.get(take=take).history.first()
        self.client.post("/marking/undo/", {"change": change.pk})
        page = self.client.get(f"/takes/{take.pk}/")
        self.assertContains(page, "undid “released”")
        self.assertIsNone(MarkSheet.objects.get(take=take).released_at)

    def test_of_a_list_only_what_it_showed_is_released(self) -> None:
        for take in self.takes:
            accept(self.teacher, take)
        page = self.client.get("/marking/?state=accepted")
        shown = list(page.context["shown"])
        give_score(self.teacher, self.takes[0], "notes", TeacherScore(score=10, why="x"))
        answer = self.client.post("/marking/release/", {"shown": [*shown[:-1], "x y"]}, follow=True)
        self.assertContains(answer, "One mark is released.")
        self.assertContains(answer, "2 takes were left")
        self.assertEqual(MarkSheet.objects.filter(released_at__isnull=False).count(), 1)

    @staticmethod
    def form_data(form) -> dict[str, str]:
        return {name: "" if form[name].value() is None else str(form[name].value()) for name in form.fields}

    @staticmethod
    def state(take) -> str:
        return state_of(Take.objects.get(pk=take.pk))

    def test_the_queue_is_gone_through_and_knows_where_it_is(self) -> None:
        first, second, third = self.takes
        page = self.client.get(f"/takes/{second.pk}/")
        self.assertContains(page, "2 of 3")
        self.assertContains(page, f'href="/takes/{first.pk}/" data-key="p"')
        self.assertContains(page, f'href="/takes/{third.pk}/" data-key="n"')
        answer = self.client.post(f"/takes/{second.pk}/accept/")
        self.assertRedirects(answer, f"/takes/{third.pk}/", fetch_redirect_response=False)
        self.assertEqual((self.names(), self.names(state="accepted")), (["Ada", "Cem"], ["Ben"]))
        # Past the last one it goes on with those that were passed over; then back to the queue.
        answer = self.client.post(f"/takes/{third.pk}/accept/", {"release": "1"})
        self.assertRedirects(answer, f"/takes/{first.pk}/", fetch_redirect_response=False)
        self.assertRedirects(self.client.post(f"/takes/{first.pk}/accept/"), "/marking/")
        self.assertEqual(MarkSheet.objects.filter(released_at__isnull=False).count(), 1)
        self.client.post("/marking/release/")
        self.assertEqual(MarkSheet.objects.filter(released_at__isnull=False).count(), 3)

    def test_the_queue_is_narrowed_by_the_address(self) -> None:
        other = factories.assignment(factories.exercise(self.teacher), self.school_class)
        type(other).objects.filter(pk=other.pk).update(due_at=timezone.now() - timedelta(hours=1))
        late = factories.handed_in(self.students[0], other)
        self.assertEqual(self.names(assignment=other.pk), ["Ada"])
        self.assertEqual(self.names(late="late"), ["Ada"])
        self.assertEqual(len(self.names(late="in-time")), 3)
        self.assertEqual(self.names(school_class=0 + self.school_class.pk + 1), [])
        page = self.client.get(f"/marking/?assignment={other.pk}&late=late")
        self.assertContains(page, "One take is waiting.")
        self.assertContains(page, f"/takes/{late.pk}/?assignment={other.pk}&amp;late=late")
        self.assertContains(
            self.client.get("/marking/?state=nonsense&class=x&late=y"), "4 takes are waiting."
        )
        self.assertContains(self.client.get("/marking/?state=asked"), "No takes match.")

    def test_another_take_is_asked_for_and_may_come_after_the_due_date(self) -> None:
        take, student = self.takes[0], self.students[0]
        self.assertEqual(self.client.post(f"/takes/{take.pk}/again/", {"why": ""}).status_code, 422)
        self.client.post(f"/takes/{take.pk}/again/", {"why": "Bar 3 with both hands, please."})
        self.assertEqual((self.names(), self.names(state="asked")), (["Ben", "Cem"], ["Ada"]))
        report = self.client_of(student).get(f"/takes/{take.pk}/")
        self.assertContains(report, "Bar 3 with both hands, please.")
        type(self.given).objects.filter(pk=self.given.pk).update(due_at=timezone.now() - timedelta(days=1))
        better = factories.take(student, self.given)
        hand_in(student, better)
        self.assertEqual(self.names(), ["Ben", "Cem", "Ada"])
        # Nobody asked Ben: for him the due date holds.
        with self.assertRaises(TooLate):
            hand_in(self.students[1], factories.take(self.students[1], self.given))
        release(self.teacher, better)
        answer = self.client.post(f"/takes/{better.pk}/again/", {"why": "Once more"})
        self.assertEqual(answer.status_code, 403)

    def test_what_is_marked_by_hand_is_marked_before_a_mark_is_accepted(self) -> None:
        rubric = make_rubric(self.teacher, name="Own", kind="keyboard", says=OWN)
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        type(given).objects.filter(pk=given.pk).update(rubric=rubric.current)
        given.refresh_from_db()
        take = factories.handed_in(self.students[0], given)
        with self.assertRaises(NotMarkedYet):
            accept(self.teacher, take)
        url = f"/takes/{take.pk}/"
        refused = self.client.post(f"{url}accept/", {"release": "1"}, follow=True)
        self.assertContains(refused, "First give the hand-marked criteria a mark")
        self.assertContains(self.client.get(f"{url}mark/hand-posture/", **HTMX), "easy (100)")
        self.client.post(f"{url}mark/hand-posture/", {"step": "100"}, **HTMX)
        page = self.client.post(f"{url}mark/hand-talk/", {"ticked": ["0", "1"]}, **HTMX)
        self.assertNotContains(page, "to be marked")
        sheet = MarkSheet.objects.get(take=take)
        before = sheet.total
        self.assertContains(self.client.post(f"{url}help/", {"help": "2"}, **HTMX), "played along (−20)")
        sheet.refresh_from_db()
        self.assertAlmostEqual(sheet.total, before - 20)
        self.assertEqual((sheet.out_of, sheet.points % 0.5), (10, 0))
        self.assertEqual(self.client.post(f"{url}mark/hand-posture/", {"step": "55"}).status_code, 422)
        # Left out on purpose is marked, too.
        give_score(self.teacher, take, "hand-posture", TeacherScore(score=None))
        self.assertTrue(accept(self.teacher, take).accepted_at)
        with self.assertRaises(NotAllowed):
            give_help(self.students[1], take, 0)

    def test_clear_cases_are_accepted_together_after_a_spot_check(self) -> None:
        students = [factories.student() for _ in range(6)]
        self.school_class.students.add(*students)
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        for student in students[:5]:
            factories.handed_in(student, given, habits=Habits(spread_ms=6))
        rough = factories.handed_in(students[5], given, habits=Habits(spread_ms=6, stop_after_bar=2))
        cases = sort_cases(self.teacher, given)
        self.assertEqual([case.take.pk for case in cases.others], [rough.pk])
        self.assertEqual((len(cases.clear), len(cases.spots)), (5, 2))
        url = f"/assignments/{given.pk}/clear/"
        self.assertContains(self.client.get(url), "Look at 2 of them first.")
        self.client.post(f"{url}accept/")
        self.assertFalse(MarkSheet.objects.filter(accepted_at__isnull=False).exists())
        for case in cases.spots:
            accept(self.teacher, case.take)
        self.assertContains(self.client.get(url), "Accept the other 3")
        self.client.post(f"{url}accept/")
        self.assertEqual(MarkSheet.objects.filter(accepted_at__isnull=False).count(), 5)
        self.assertFalse(MarkSheet.objects.filter(released_at__isnull=False).exists())

    def test_settings_are_tried_and_kept_for_one_take(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher, beat()), self.school_class)
        take = factories.handed_in(self.students[0], given, habits=Habits(spread_ms=20, lead_ms=70))
        url, before = f"/takes/{take.pk}/try/", MarkSheet.objects.get(take=take).points
        form = self.client.get(url).context["try_form"]
        data = {name: form[name].value() for name in form.fields}
        same = self.client.post(url, data)
        self.assertEqual(same.context["tried"].before, same.context["tried"].after)
        late = self.client.post(url, {**data, "latency_ms": "70"})
        self.assertGreater(late.context["tried"].after, before)
        strict = self.client.post(url, {**data, "level": "exacting", "forgiven_ms": "0"})
        self.assertLess(strict.context["tried"].after, before)
        hats = self.client.post(url, {**data, "pad-42": "38"})
        self.assertLess(hats.context["tried"].after, before)
        self.assertEqual(MarkSheet.objects.get(take=take).points, before)
        none = {name: "0" for name in data if name.startswith("weight-")}
        for wrong in ({"latency_ms": "9000"}, {"level": "x"}, none, {"pad-42": "1"}):
            self.assertEqual(self.client.post(url, {**data, **wrong}).status_code, 422, wrong)
        self.client.post(url, {**data, "latency_ms": "70", "why": "His cable is slow.", "keep": "1"})
        take = type(take).objects.get(pk=take.pk)
        self.assertEqual(take.settings, {"latency_ms": 70.0, "why": "His cable is slow."})
        self.assertGreater(MarkSheet.objects.get(take=take).points, before)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "His cable is slow.")
        set_for_take(self.teacher, take, TakeSettings())
        self.assertEqual(MarkSheet.objects.get(take=take).points, before)
        set_for_take(self.teacher, take, TakeSettings(level=LEVELS["exacting"]))
        self.assertEqual(judged(type(take).objects.get(pk=take.pk)).scores.level, "exacting")


class TalkTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student(first="Ada")
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        cls.take = factories.handed_in(cls.student, cls.given)

    def test_a_mark_counts_as_read_once_it_is_released(self) -> None:
        sheet = MarkSheet.objects.get(take=self.take)
        talk.see(self.take.student, sheet, [])
        sheet.refresh_from_db()
        self.assertIsNone(sheet.seen_at)
        release(self.teacher, self.take)
        talk.see(self.take.student, MarkSheet.objects.get(take=self.take), [])
        sheet.refresh_from_db()
        self.assertIsNotNone(sheet.seen_at)

    def test_phrases_are_kept_and_filled(self) -> None:
        self.client.force_login(self.teacher)
        for wrong, said in (
            ("{nose} up", "no field {nose}"),
            ("{name", "in single braces"),
            ("{}", "no field {}"),
        ):
            self.assertContains(self.client.post("/marking/phrases/", {"text": wrong}), said, status_code=422)
        self.client.post("/marking/phrases/", {"text": "{name}, bar {bar}: {lag}, {mark} in “{exercise}”."})
        kept = Phrase.objects.get()
        text = self.client.get(f"/takes/{self.take.pk}/phrases/{kept.pk}/?bar=3").content.decode()
        self.assertRegex(text, r"^Ada, bar 3: [+−]\d+ ms, \d+ in “Exercise \d+”\.$")
        stranger = factories.teacher()
        with self.assertRaises(NotAllowed):
            talk.delete_phrase(stranger, kept)
        self.assertEqual(
            self.client.get(f"/takes/{self.take.pk}/phrases/{kept.pk}/?bar=%20").status_code, 422
        )
        without_bar = self.client.get(f"/takes/{self.take.pk}/phrases/{kept.pk}/?bar=")
        self.assertEqual((without_bar.status_code, without_bar.json()["field"]), (422, "bar"))
        self.client.post("/marking/phrases/", {"drop": kept.pk})
        self.assertFalse(Phrase.objects.exists())

    def test_answers_go_both_ways_once_the_mark_is_released_and_say_when_they_were_read(self) -> None:
        url, student = f"/takes/{self.take.pk}/", Client()
        student.force_login(self.student)
        with self.assertRaises(NotAllowed):
            talk.reply(self.student, self.take, "May I ask?")
        release(self.teacher, self.take)
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get(url), "Not read yet.")
        student.get(url)
        seen = MarkSheet.objects.get(take=self.take).seen_at
        self.assertIsNotNone(seen)
        student.get(url)
        self.assertEqual(MarkSheet.objects.get(take=self.take).seen_at, seen)
        student.post(f"{url}replies/", {"text": "Why is <b>bar 2</b> late?"})
        self.assertEqual([t.pk for t in queued(self.teacher, Queue(state="questions"))], [self.take.pk])
        page = self.client.get(url)
        self.assertContains(page, "Why is &lt;b&gt;bar 2&lt;/b&gt; late?")
        self.assertContains(page, "Read ")
        self.assertFalse(queued(self.teacher, Queue(state="questions")).exists())
        self.client.post(f"{url}replies/", {"text": "Listen to the hat there."})
        self.assertContains(student.get(url), "Listen to the hat there.")
        self.assertEqual(student.post(f"{url}replies/", {"text": " "}).status_code, 422)

    def test_where_the_assignment_says_so_the_mark_is_seen_at_once(self) -> None:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        type(given).objects.filter(pk=given.pk).update(seen="at-once")
        given.refresh_from_db()
        take = factories.handed_in(self.student, given)
        self.client.force_login(self.student)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "Show the working")
        # It is to learn by: a better one may follow, until the teacher releases.
        better = factories.take(self.student, given)
        hand_in(self.student, better)
        release(self.teacher, better)
        with self.assertRaises(NotAllowed):
            hand_in(self.student, factories.take(self.student, given))
