"""Giving, arranging, being late, watching, reminding; and taking back what was done at the desk."""

import io
import json
import zipfile
from datetime import UTC, datetime, timedelta
from threading import Barrier
from unittest.mock import patch

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase
from django.utils import timezone

from ear.labels.typing_keys import reach
from oido.assignments import services
from oido.assignments.models import Arrangement, Assignment, FeedbackVisibility, Late, Reminder
from oido.assignments.services import Arranged, Terms, give_again, give_exercise
from oido.assignments.student_terms import StudentTermsTable, get_student_terms
from oido.common.permissions import NotAllowed
from oido.desk.watching import watch
from oido.exercises.models import Exercise
from oido.leaving.exporting import person_archive
from oido.marking import services as marking
from oido.marking.hand_in import Closed, NotToBeHandedIn, hand_in
from oido.marking.history import AlreadySeen, Overtaken
from oido.marking.models import MarkSheet, SheetChange
from oido.marking.sheets import lateness_of
from oido.people.models import School, SchoolClass
from oido.post.models import Email
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.services import NoMoreTakes
from tests.ear.parts import beat, melody, two_hands
from tests.oido import factories
from tests.oido.clients import DeskClient

WATCH_QUERIES = 10


def day(offset: int):
    return timezone.now() + timedelta(days=offset)


class GivingTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.ada, cls.ben, cls.cem = (factories.student(first=name) for name in ("Ada", "Ben", "Cem"))
        cls.school_class = factories.school_class(
            teachers=[cls.teacher], students=[cls.ada, cls.ben, cls.cem]
        )
        cls.exercise = factories.exercise(cls.teacher)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def give(self, **more) -> Assignment:
        facts = {"due_at": day(3), **more}
        return give_exercise(self.teacher, self.exercise, self.school_class, **facts)

    def stand(self, student, given) -> int:
        client = Client()
        client.force_login(student)
        return client.get(f"/stand/{given.pk}/").status_code

    def form(self, *classes: SchoolClass, **more) -> dict:
        due = timezone.localdate() + timedelta(days=5)
        said = {"due_on": due.isoformat(), "late": "taken", "seen": "reading"}
        return said | {f"class-{one.pk}-chosen": "on" for one in classes} | more

    def test_it_is_given_to_several_classes_and_to_single_students_each_with_its_days(self) -> None:
        other = factories.school_class(teachers=[self.teacher], students=[factories.student()])
        own_day = timezone.localdate() + timedelta(days=9)
        sent = self.form(self.school_class, seen="at-once", attempts="4")
        sent |= {f"class-{other.pk}-chosen": "on", f"class-{other.pk}-due_on": own_day.isoformat()}
        sent[f"class-{self.school_class.pk}-students"] = [self.ada.pk, self.ben.pk]
        self.assertEqual(self.client.post(f"/exercises/{self.exercise.pk}/give/", sent).status_code, 302)
        some = Assignment.objects.get(school_class=self.school_class)
        whole = Assignment.objects.get(school_class=other)
        self.assertEqual((some.is_for_all, whole.is_for_all), (False, True))
        self.assertEqual((some.seen, some.attempts, whole.attempts), (FeedbackVisibility.AT_ONCE, 4, 4))
        self.assertEqual(timezone.localtime(whole.due_at).date(), own_day)
        self.assertLess(some.due_at, whole.due_at)
        self.assertEqual([self.stand(one, some) for one in (self.ada, self.ben, self.cem)], [200, 200, 404])

    def test_to_all_classes_or_to_none(self) -> None:
        other = factories.school_class(teachers=[self.teacher], students=[])

        def not_to_the_other(teacher, exercise, school_class, **more):
            if school_class == other:
                raise NotAllowed
            return give_exercise(teacher, exercise, school_class, **more)

        with patch.object(services, "give_exercise", not_to_the_other):
            self.client.post(f"/exercises/{self.exercise.pk}/give/", self.form(self.school_class, other))
        self.assertFalse(Assignment.objects.filter(exercise=self.exercise).exists())

    def test_it_is_said_what_typing_keys_reach_and_which_version_they_reach_whole(self) -> None:
        exercise = factories.exercise(self.teacher, two_hands(bars=4))
        actual = reach(two_hands(bars=4))
        assert actual is not None
        address = f"/exercises/{exercise.pk}/give/"
        page = self.client.get(address)
        self.assertContains(page, f"{actual.as_they_lie}")
        self.assertContains(
            page, f"notes can be reached in the normal layout, {actual.by_two_hands} with the layout"
        )
        self.assertNotContains(page, "easier")
        version = factories.exercise(self.teacher, melody())
        Exercise.objects.filter(pk=version.pk).update(variation_of=exercise.part)
        self.assertContains(self.client.get(address), f"version “{version.title}” fits on them.")
        Exercise.objects.filter(pk=version.pk).update(deleted_at=timezone.now())
        self.assertNotContains(self.client.get(address), "can be reached whole")
        self.assertNotContains(
            self.client.get(f"/exercises/{factories.exercise(self.teacher, beat()).pk}/give/"), "typing keys"
        )

    def test_given_twice_it_asks(self) -> None:
        self.give()
        url = f"/exercises/{self.exercise.pk}/give/"
        asked = self.client.post(url, self.form(self.school_class))
        self.assertContains(asked, "has this already", status_code=422)
        self.assertEqual(Assignment.objects.count(), 1)
        self.assertEqual(self.client.post(url, self.form(self.school_class, again="1")).status_code, 302)
        self.assertEqual(Assignment.objects.count(), 2)

    def test_what_is_wrong_is_said_beside_it(self) -> None:
        url = f"/exercises/{self.exercise.pk}/give/"
        past = (timezone.localdate() - timedelta(days=1)).isoformat()
        far = (timezone.localdate() + timedelta(days=40)).isoformat()
        for sent, said in (
            (self.form(), "Choose a class"), (self.form(self.school_class, due_on=past), "passed already"),
            (self.form(self.school_class, opens_on=far), "It opens after it is due"),
            (self.form(self.school_class, attempts="0"), "greater than or equal to 1"),
            (self.form(self.school_class, **{f"class-{self.school_class.pk}-opens_on": far}), "opens after it is due"),
            (self.form(self.school_class, late="x"), "not one of the available choices"),
        ):  # fmt: skip
            self.assertContains(self.client.post(url, sent), said, status_code=422)
        self.assertFalse(Assignment.objects.exists())

    def test_it_is_seen_from_the_day_it_opens_and_not_once_it_is_withdrawn(self) -> None:
        given = self.give(opens_at=day(1))
        self.assertEqual(self.stand(self.ada, given), 404)
        given.opens_at = day(-1)
        given.save()
        take = factories.handed_in(self.ada, given)
        services.withdraw(self.teacher, given, is_withdrawn=True)
        self.assertEqual(self.stand(self.ada, given), 404)
        self.assertEqual(self.client.get(f"/takes/{take.pk}/").status_code, 200)
        self.client.post(f"/assignments/{given.pk}/restore/")
        self.assertEqual(self.stand(self.ada, given), 200)

    def test_rules_are_the_exercises_with_what_was_said_over_them(self) -> None:
        factories.allow(self.give(), attempts=5, least_takes=3, slower_percent=10)
        self.exercise.refresh_from_db()
        given = self.give(terms=Terms(attempts=2, faster_percent=20, seen=FeedbackVisibility.NOTHING))
        rules = get_student_terms(given, self.ada).rules
        self.assertEqual((rules.attempts, rules.least_takes), (2, 2))
        self.assertEqual((rules.slower_percent, rules.faster_percent, rules.shows_analysis), (10, 20, False))
        services.arrange(
            self.teacher, given, self.ada, Arranged(attempts=7, slower_percent=40, due_at=day(9))
        )
        student_terms = get_student_terms(given, self.ada)
        self.assertEqual(
            (
                student_terms.rules.attempts,
                student_terms.rules.least_takes,
                student_terms.rules.slower_percent,
            ),
            (7, 3, 40),
        )
        self.assertEqual(
            (student_terms.has_more_time, get_student_terms(given, self.ben).has_more_time), (True, False)
        )
        self.assertEqual(StudentTermsTable([given]).of(given.pk, self.ada.pk).due_at, student_terms.due_at)

    def test_tries_are_counted_by_what_holds_for_the_student(self) -> None:
        given = self.give(terms=Terms(attempts=1))
        services.arrange(self.teacher, given, self.ben, Arranged(attempts=2))
        for student, most in ((self.ada, 1), (self.ben, 2)):
            for _n in range(most):
                factories.take(student, given)
            with self.assertRaises(NoMoreTakes):
                factories.take(student, given)

    def test_an_easier_version_is_played_measured_and_marked_in_its_place(self) -> None:
        given = self.give()
        easy = factories.exercise(self.teacher, melody(bars=2, bpm=60.0))
        services.arrange(self.teacher, given, self.ada, Arranged(version=easy))
        client = Client()
        client.force_login(self.ada)
        self.assertContains(client.get(f"/stand/{given.pk}/"), f"<h1>{easy.title}</h1>", html=True)
        take = factories.take(self.ada, given, part=easy.part)
        hand_in(self.ada, take)
        actual = judged(Take.objects.get(pk=take.pk))
        self.assertEqual((actual.facts.target.bars, actual.take.exercise), (2, easy))
        self.assertGreater(actual.judgement.total, 80)
        # Part of the other exercise: not hers to play.
        with self.assertRaises(NotAllowed):
            factories.take(self.ada, given)
        self.assertContains(client.get(f"/stand/{given.pk}/receipt/"), easy.title)
        drums = factories.exercise(self.teacher, beat())
        elsewhere = factories.exercise(factories.teacher(at=School.objects.create(name="Elsewhere")))
        for version in (drums, elsewhere):
            with self.assertRaises(NotAllowed):
                services.arrange(self.teacher, given, self.ben, Arranged(version=version))

    def test_takes_of_the_exercise_that_is_replaced_are_not_taken_for_the_other(self) -> None:
        given = self.give()
        before = factories.take(self.ada, given)
        easy = factories.exercise(self.teacher, melody(bars=2, bpm=60.0))
        services.arrange(self.teacher, given, self.ada, Arranged(version=easy, slower_percent=20))
        client = Client()
        client.force_login(self.ada)
        page = client.get(f"/stand/{given.pk}/hand-in/?take={before.pk}")
        self.assertContains(page, f"take 1 (recorded for “{given.exercise}”)")
        self.assertNotContains(page, f'value="{before.pk}"')
        self.assertRaises(NotToBeHandedIn, hand_in, self.ada, before)
        self.assertNotContains(client.get(f"/stand/{given.pk}/"), f"hand-in/?take={before.pk}")
        # What was handed in stays what it is, whatever is arranged afterwards.
        ben = factories.take(self.ben, given)
        hand_in(self.ben, ben)
        services.arrange(self.teacher, given, self.ben, Arranged(version=easy))
        client.force_login(self.ben)
        self.assertContains(client.get(f"/stand/{given.pk}/receipt/"), f"· {given.exercise}")
        with zipfile.ZipFile(io.BytesIO(person_archive(self.ada, reader=self.teacher))) as archive:
            person = json.loads(archive.read("person.json"))
        [arranged] = person["arrangements"]
        self.assertEqual((arranged["plays_instead"], arranged["slower_percent"]), (easy.title, 20))

    def test_late_is_taken_costs_or_is_refused_by_the_day_that_the_student_has(self) -> None:
        marks = {}
        for late in Late.values:
            given = self.give(due_at=day(3), terms=Terms(late=late))
            Assignment.objects.filter(pk=given.pk).update(due_at=day(-2) + timedelta(hours=1))
            given.refresh_from_db()
            take = factories.take(self.ada, given, events=marks.get("events"))
            marks["events"] = [tuple(event) for event in take.events]
            if late == Late.REFUSED:
                self.assertRaises(Closed, hand_in, self.ada, take)
                services.arrange(self.teacher, given, self.ada, Arranged(due_at=day(1)))
                hand_in(self.ada, take)
            else:
                hand_in(self.ada, take)
            marks[late] = MarkSheet.objects.get(take=take)
        days = [marks[late].late_days for late in Late.values]
        self.assertEqual(days, [2, 2, 0])
        self.assertAlmostEqual(marks["taken"].total - marks["costs"].total, 2 * 5.0)
        sheet = marks["costs"]
        services.arrange(self.teacher, sheet.take.assignment, self.ada, Arranged(due_at=day(1)))
        sheet.refresh_from_db()
        self.assertEqual((sheet.late_days, sheet.total), (0, marks["taken"].total))

    def test_another_take_that_a_teacher_asks_for_is_never_late(self) -> None:
        given = self.give(due_at=day(3), terms=Terms(late=Late.COSTS))
        first = factories.handed_in(self.ada, given)
        marking.ask_again(self.teacher, first, why="Once more, with the pedal.")
        Assignment.objects.filter(pk=given.pk).update(due_at=day(-2) + timedelta(hours=1))
        given.refresh_from_db()
        asked_for, late = (lateness_of(factories.handed_in(who, given)) for who in (self.ada, self.ben))
        self.assertEqual((asked_for.days, late.charged), (0, 2))

    def test_date_fields_say_the_day_in_words(self) -> None:
        given = self.give(due_at=datetime(2027, 3, 5, 12, tzinfo=UTC))
        page = self.client.get(f"/assignments/{given.pk}/how/")
        self.assertContains(page, ">Friday 5 March 2027</span>")
        wrong = self.client.post(f"/assignments/{given.pk}/how/", {**self.form(), "due_on": "2027-13-45"})
        self.assertContains(wrong, 'data-date-words="due_on"', status_code=422)

    def test_closed_takes_nothing_more(self) -> None:
        given = self.give()
        take = factories.take(self.ada, given)
        self.client.post(f"/assignments/{given.pk}/close/")
        self.assertRaises(Closed, hand_in, self.ada, take)
        self.client.post(f"/assignments/{given.pk}/open/")
        hand_in(self.ada, take)

    def test_terms_and_days_are_changed(self) -> None:
        given = self.give()
        page = self.client.get(f"/assignments/{given.pk}/how/")
        self.assertContains(page, "Withdraw it")
        sent = self.form(late="costs", slower_percent="15")
        self.assertEqual(self.client.post(f"/assignments/{given.pk}/how/", sent).status_code, 302)
        given.refresh_from_db()
        self.assertEqual((given.late, given.slower_percent), ("costs", 15))
        self.assertEqual(timezone.localtime(given.due_at).date().isoformat(), sent["due_on"])

    def test_somebody_elses_student_is_not_arranged_for(self) -> None:
        given = self.give()
        for by, student in ((self.teacher, factories.student()), (factories.teacher(), self.ada)):
            with self.assertRaises(NotAllowed):
                services.arrange(by, given, student, Arranged(is_excused=True))
        self.assertEqual(
            self.client.get(f"/assignments/{given.pk}/students/{factories.student().pk}/").status_code, 404
        )

    def test_a_class_is_given_what_another_one_had(self) -> None:
        first = self.give(due_at=day(3), opens_at=day(1), terms=Terms(attempts=3))
        self.give(due_at=day(10))
        services.withdraw(self.teacher, self.give(due_at=day(12)), is_withdrawn=True)
        other = factories.school_class(teachers=[self.teacher], students=[])
        made = give_again(self.teacher, self.school_class, other, first_due_at=day(33))
        self.assertEqual([one.attempts for one in made], [3, None])
        self.assertEqual([(b.due_at - a.due_at).days for a, b in [made]], [7])
        self.assertEqual(made[0].due_at - made[0].opens_at, first.due_at - first.opens_at)
        with self.assertRaises(NotAllowed):
            give_again(factories.teacher(), self.school_class, other, first_due_at=day(33))


class WatchingTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.students = [factories.student(first=name) for name in ("Ada", "Ben", "Cem", "Dee", "Eda")]
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def steps(self) -> dict[str, str]:
        return {row.student.first_name: row.step for row in watch(self.given).rows}

    def test_it_tells_how_far_each_is(self) -> None:
        ada, ben, cem, dee, _eda = self.students
        client = Client()
        for student in (ben, cem):
            client.force_login(student)
            client.get(f"/stand/{self.given.pk}/")
        loop = {
            "events": [],
            "bpm": 96,
            "fifths": 0,
            "latency_ms": 0,
            "source": "midi",
            "first_bar": 1,
            "last_bar": 1,
        }
        self.assertEqual(
            client.post(f"/stand/{self.given.pk}/loops/", loop, content_type="application/json").status_code,
            200,
        )
        factories.take(dee, self.given)
        factories.handed_in(ada, self.given)
        services.arrange(
            self.teacher, self.given, self.students[4], Arranged(is_excused=True, excused_why="ill")
        )
        self.assertEqual(
            self.steps(),
            {"Ada": "handed-in", "Ben": "opened", "Cem": "practised", "Dee": "recorded", "Eda": "excused"},
        )
        actual = watch(self.given)
        self.assertEqual((actual.handed_in, actual.asked, len(actual.missing)), (1, 4, 3))

    def test_the_list_is_sent_anew_only_when_something_is_new(self) -> None:
        url = f"/assignments/{self.given.pk}/who/"
        seen = watch(self.given).imprint
        again = self.client.get(f"{url}?seen={seen}", headers={"HX-Request": "true"})
        self.assertEqual(again.status_code, 204)
        factories.handed_in(self.students[0], self.given)
        news = self.client.get(f"{url}?seen={seen}", headers={"HX-Request": "true"})
        self.assertContains(news, "1 of 5 handed in")
        self.assertNotContains(news, "<html")

    def test_it_asks_the_same_number_of_times_however_many_there_are(self) -> None:
        url = f"/assignments/{self.given.pk}/who/"
        self.client.get(url)
        for count in (0, 3):
            for student in self.students[:count]:
                factories.handed_in(student, self.given)
            with self.assertNumQueries(WATCH_QUERIES):
                self.client.get(url)

    def test_reminded_by_page_and_mail_once_a_day_at_most(self) -> None:
        ada, ben, cem, _dee, _eda = self.students
        ada.email = "ada@school.example"
        ada.save()
        factories.handed_in(ben, self.given)
        services.arrange(self.teacher, self.given, cem, Arranged(is_excused=True))
        url = f"/assignments/{self.given.pk}/remind/"
        self.client.post(url)
        self.client.post(url)
        self.client.post(url, {"student": [ada.pk, ben.pk]})
        self.assertEqual(Reminder.objects.count(), 3)
        self.assertEqual([letter.to for letter in Email.objects.all()], ["ada@school.example"])
        client = Client()
        client.force_login(ada)
        self.assertContains(client.get("/"), f"{self.teacher.name} reminded")
        Reminder.objects.update(sent_at=timezone.now() - timedelta(hours=25))
        self.client.post(url, {"student": ada.pk})
        self.assertEqual(Email.objects.count(), 2)


class TakingBackTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        cls.take = factories.handed_in(cls.student, cls.given)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def sheet(self) -> MarkSheet:
        return MarkSheet.objects.get(take=self.take)

    def test_every_act_is_undone_and_leaves_its_line(self) -> None:
        before = self.sheet()
        url = f"/takes/{self.take.pk}"
        for act, sent in (
            ("/accept/", {}), ("/accept/", {"release": "1"}), ("/again/", {"why": "slower"}),
            ("/mark/timing/", {"score": "12", "why": "no"}),
        ):  # fmt: skip
            answer = self.client.post(url + act, sent)
            self.assertEqual(answer.status_code, 302, act)
            change = SheetChange.objects.first()
            self.assertEqual((change.by, change.is_undone), (self.teacher, False))
            self.client.post("/marking/undo/", {"change": change.pk})
            now = self.sheet()
            for name in ("accepted_at", "released_at", "released_by", "asked_again_at", "changes", "total"):
                self.assertEqual(getattr(now, name), getattr(before, name), (act, name))
        self.assertEqual(SheetChange.objects.filter(is_undone=True).count(), 4)

    def test_a_release_is_taken_back_until_it_is_read(self) -> None:
        marking.release(self.teacher, self.take)
        page = self.client.get(f"/takes/{self.take.pk}/")
        self.assertContains(page, "Withdraw the release")
        self.client.post(f"/takes/{self.take.pk}/take-back/")
        self.assertEqual((self.sheet().is_released, self.sheet().accepted_at is not None), (False, False))
        marking.release(self.teacher, self.take)
        reader = Client()
        reader.force_login(self.student)
        reader.get(f"/takes/{self.take.pk}/")
        self.assertNotContains(self.client.get(f"/takes/{self.take.pk}/"), "Withdraw the release")
        with self.assertRaises(AlreadySeen):
            marking.take_back_release(self.teacher, Take.objects.get(pk=self.take.pk))
        said = self.client.post(f"/takes/{self.take.pk}/take-back/", follow=True)
        self.assertContains(said, "The student has read this mark already")

    def test_what_was_overtaken_stays(self) -> None:
        marking.accept(self.teacher, self.take)
        first = SheetChange.objects.first()
        marking.release(self.teacher, self.take)
        with self.assertRaises(Overtaken):
            marking.undo(self.teacher, [first])
        self.assertTrue(self.sheet().is_released)
        with self.assertRaises(NotAllowed):
            marking.undo(factories.teacher(), [SheetChange.objects.first()])

    def test_a_rubric_that_asks_for_more_lets_accepted_takes_wait_again(self) -> None:
        marking.accept(self.teacher, self.take)
        # As it stood before takes were put back: accepted, and something to be marked.
        MarkSheet.objects.update(is_whole=False)
        said = self.client.post("/marking/release/", follow=True)
        self.assertContains(said, "One take is waiting again")
        self.assertIsNone(self.sheet().accepted_at)


class AtOnceTest(TransactionTestCase):
    client_class = DeskClient

    def test_two_who_remind_at_once_remind_once(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        gate, told = Barrier(2), []

        def remind() -> None:
            try:
                gate.wait()
                told.extend(services.remind(teacher, given, [student]))
            finally:
                connection.close()

        threads = [factories.thread(target=remind) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((len(told), Reminder.objects.count(), Arrangement.objects.count()), (1, 1, 0))
