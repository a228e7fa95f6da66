"""Show and explain: asked in the rules, shown in a copy, said at hand-in, ticked and read in the mark."""

from dataclasses import replace

from django.test import Client, TestCase
from django.utils import timezone

from ear.judging.judgement import TeacherScore
from ear.judging.rubric import DEFAULT_RUBRICS, HelpCost
from ear.judging.shown import EXPLAINED, SHOWN
from ear.notes import Kind
from ear.players.robot import Habits
from ear.practice.rules import RecordingRules
from ear.practice.showing import InWords, Skill, ToShow
from oido.assignments.models import FeedbackVisibility
from oido.exercises.models import Exercise, Task
from oido.marking import hand_in as service
from oido.marking.models import MarkSheet
from oido.marking.services import give_help, give_score, release
from oido.rubrics.services import make_rubric
from oido.takes.models import HandIn, Take
from tests.oido import factories

HTMX = {"HTTP_HX_REQUEST": "true"}
TO_SHOW = (
    ToShow(skill=Skill.QUANTISED, in_words=InWords.OWN),
    ToShow(skill=Skill.LENGTHS, in_words=InWords.LESSON, terms="legato, staccato"),
    ToShow(skill=Skill.REPEATED),
)
SAID = {Skill.QUANTISED: "It pulls notes to the line.", Skill.LENGTHS: "Shorter is staccato."}
QUANTISE = {"step": 480, "strength": 100, "swing": 1, "lengths": ""}
REPEAT = {"how": "repeat", "first_bar": 1, "last_bar": 1, "times": 1}


class ShowingTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        self.exercise = factories.exercise(self.teacher)
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.given = factories.assignment(self.exercise, school_class)
        factories.allow(self.given, to_show=TO_SHOW)
        self.take = factories.take(self.student, self.given, habits=Habits(spread_ms=30))
        self.client.force_login(self.student)
        self.desk = Client()
        self.desk.force_login(self.teacher)
        self.copy, self.hand_in = f"/takes/{self.take.pk}/copy/", f"/stand/{self.given.pk}/hand-in/"

    def do(self, tool: str, **values: object):
        return self.client.post(f"{self.copy}do/{tool}/", values, **HTMX)

    def show_two(self) -> None:
        self.client.get(self.copy)
        self.do("quantise", **QUANTISE)
        self.do("bars", **REPEAT)

    def said(self, **more: str) -> dict[str, str]:
        return {"takes": str(self.take.pk), **{f"explained-{k.value}": v for k, v in SAID.items()}, **more}

    def marks(self) -> tuple[MarkSheet, dict[str, float | None]]:
        take = Take.objects.select_related("sheet").get(pk=self.take.pk)
        return take.sheet, {key: given["score"] for key, given in take.sheet.changes.items()}

    def test_the_rules_ask_for_it(self) -> None:
        url = f"/exercises/{self.exercise.pk}/rules/showing/"
        values = {"show-loudness": "lesson", "terms-loudness": "forte, piano", "show-wrong_note": "none",
                   "shown_percent": "50"}  # fmt: skip
        self.assertRedirects(
            self.desk.post(url, values),
            f"/exercises/{self.exercise.pk}/#rules",
            fetch_redirect_response=False,
        )
        exercise = Exercise.objects.get(pk=self.exercise.pk)
        rules = exercise.recording_rules
        self.assertEqual({(one.skill, one.in_words, one.terms) for one in rules.to_show}, {
            (Skill.WRONG_NOTE, InWords.NONE, ""), (Skill.LOUDNESS, InWords.LESSON, "forte, piano")})  # fmt: skip
        self.assertEqual((rules.shown_percent, exercise.task, rules.has_copies), (50, Task.SHOW, True))
        self.assertContains(
            self.client.get(f"/stand/{self.given.pk}/"), "explain it with the words: forte, piano"
        )
        wrong = self.desk.post(url, {**values, "terms-loudness": ""})
        self.assertContains(wrong, "List the words that the explanation should use", status_code=422)
        self.assertIn("terms-loudness", wrong.context["opened"].errors)
        self.assertEqual(Exercise.objects.get(pk=self.exercise.pk).recording_rules, rules)

    def test_the_copy_ticks_by_itself_and_a_step_back_unticks(self) -> None:
        def ticked() -> list[str]:
            page = self.client.get(self.copy)
            return [line.name for line in page.context["showing"] if line.shown.is_done]

        self.assertEqual(ticked(), [])
        self.assertContains(self.do("quantise", **QUANTISE), "shown:")
        self.assertEqual(ticked(), ["quantised"])
        self.do("bars", **REPEAT)
        self.assertEqual(ticked(), ["quantised", "a bar repeated"])
        self.assertContains(self.client.get(self.copy), "bar 2 repeats another")
        self.client.post(f"{self.copy}undo/", **HTMX)
        self.assertEqual(ticked(), ["quantised"])

    def test_without_a_copy_or_without_words_nothing_is_handed_in_and_nothing_lost(self) -> None:
        answer = self.client.post(self.hand_in, self.said())
        self.assertContains(answer, "This take has no copy yet", status_code=422)
        self.assertContains(answer, SAID[Skill.QUANTISED], status_code=422)
        self.show_two()
        answer = self.client.post(self.hand_in, self.said(**{"explained-lengths": " "}))
        self.assertContains(answer, "Please explain it in a sentence.", status_code=422)
        self.assertFalse(MarkSheet.objects.exists())
        with self.assertRaises(service.NothingShown):
            other = factories.take(self.student, self.given)
            service.hand_in(self.student, other, explained=SAID)
        self.assertFalse(Take.objects.filter(handed_in_at__isnull=False).exists())

    def test_what_was_shown_is_ticked_what_was_said_is_read_and_help_costs(self) -> None:
        rubric = replace(
            DEFAULT_RUBRICS[Kind.KEYBOARD],
            help=(HelpCost(name="none", cost=0), HelpCost(name="a hint", cost=10)),
        )
        self.given.rubric = make_rubric(self.teacher, name="With help", kind="keyboard", says=rubric).current
        self.given.save(update_fields=["rubric"])
        self.show_two()
        self.assertRedirects(
            self.client.post(self.hand_in, self.said(even_so="1")), f"/stand/{self.given.pk}/receipt/"
        )
        sheet, given = self.marks()
        self.assertAlmostEqual(given[SHOWN] or 0, 200 / 3)
        self.assertFalse(sheet.is_whole, "nobody has read what was said")
        report = self.desk.get(f"/takes/{self.take.pk}/")
        for words in ("It pulls notes to the line.", "Shorter is staccato.", "to be marked", "Explained"):
            self.assertContains(report, words)
        take = Take.objects.get(pk=self.take.pk)
        give_score(self.teacher, take, EXPLAINED, TeacherScore(score=50, ticked=(0,)))
        sheet, _given = self.marks()
        # Two of three shown, one of two explained: three of five.
        self.assertEqual((sheet.is_whole, sheet.points), (True, 60))
        give_help(self.teacher, take, 1)
        self.assertEqual(self.marks()[0].points, 50)
        release(self.teacher, take)
        self.assertContains(self.client.get(f"/takes/{self.take.pk}/"), "Explained")

    def test_what_is_shown_is_seen_before_and_after_and_what_is_missing_is_asked_about(self) -> None:
        self.client.get(self.copy)
        self.do("quantise", **QUANTISE)
        page = self.client.get(self.hand_in)
        self.assertContains(page, "showing-list")
        answer = self.client.post(self.hand_in, self.said())
        self.assertContains(answer, "Still missing:", status_code=422)
        self.assertFalse(HandIn.objects.exists())
        self.assertContains(answer, SAID[Skill.LENGTHS], status_code=422)
        answer = self.client.post(self.hand_in, {**self.said(), "even_so": "1"}, follow=True)
        self.assertContains(answer, "Shown and explained")
        self.assertContains(answer, SAID[Skill.LENGTHS])

    def test_said_anew_is_read_anew(self) -> None:
        self.show_two()
        service.hand_in(self.student, self.take, explained=SAID)
        take = Take.objects.get(pk=self.take.pk)
        give_score(self.teacher, take, EXPLAINED, TeacherScore(score=100, ticked=(0, 1)))
        service.hand_in(self.student, take, explained=SAID, note="Only a note.")
        self.assertIn(EXPLAINED, self.marks()[1], "the same words stay read")
        service.hand_in(self.student, take, explained={**SAID, Skill.LENGTHS: "Longer is legato."})
        sheet, given = self.marks()
        self.assertEqual((set(given), sheet.is_whole), ({SHOWN}, False))

    def test_rules_changed_later_leave_what_was_handed_in(self) -> None:
        self.show_two()
        service.hand_in(self.student, self.take, explained=SAID)
        before = self.marks()[0].points
        self.exercise.rules = RecordingRules(to_show=TO_SHOW[2:]).to_json()
        self.exercise.save(update_fields=["rules"])
        report = self.desk.get(f"/takes/{self.take.pk}/")
        self.assertEqual([line.name for line in report.context["showing"]],
                         ["quantised", "lengths changed", "a bar repeated"])  # fmt: skip
        self.assertEqual(report.context["mark"].points, before)

    def test_where_nothing_is_to_be_read_the_student_may_see_the_mark_at_once(self) -> None:
        factories.allow(self.given, to_show=TO_SHOW[2:])
        self.given.seen = FeedbackVisibility.AT_ONCE
        self.given.save(update_fields=["seen"])
        self.show_two()
        service.hand_in(self.student, self.take)
        sheet, _given = self.marks()
        self.assertEqual((sheet.points, sheet.is_released), (100, True))
        self.assertLess(sheet.released_at, timezone.now())
