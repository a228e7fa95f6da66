"""What students take away: things to do, the report on paper, progress; and what a class trips over."""

import re
import zlib
from contextlib import suppress
from unittest.mock import patch

from django.test import TestCase

from ear.conventions import PLAIN
from ear.formats.events import events_from_take
from ear.judging.judgement import TeacherScore
from ear.players.robot import Habits, Jump, play
from ear.practice.ladder import Ladder, Rung
from ear.reader import ENGLISH
from oido.exercises.models import Exercise
from oido.exercises.services import replace_part, set_ladder
from oido.feedback.remarks import write_remark
from oido.feedback.things_to_do import MAX_THINGS, things_to_do
from oido.marking.hand_in import hand_in
from oido.marking.services import give_score, release
from oido.progress.progress import student_progress
from oido.reports.analysed_take import AnalysedTake
from oido.reports.notation import notated
from oido.reports.pdf import report_pdf
from oido.takes.choosing import delete_take
from oido.takes.models import Take
from tests.ear.parts import melody, two_hands
from tests.oido import factories

PAGE = re.compile(rb"/Type\s*/Page\b(?!s)")
STREAM = re.compile(rb"stream\r?\n(.*?)endstream", re.DOTALL)


def pages_of(pdf: bytes) -> int:
    """How many pages a PDF has; what describes them may stand in compressed streams."""
    count = len(PAGE.findall(pdf))
    for stream in STREAM.findall(pdf):
        with suppress(zlib.error):
            count += len(PAGE.findall(zlib.decompress(stream)))
    return count


class FeedbackTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student(first="Ada")
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.exercise = factories.exercise(cls.teacher)
        cls.given = factories.assignment(cls.exercise, cls.school_class)

    def test_at_most_three_things_each_with_its_bars_at_the_stand(self) -> None:
        part = self.exercise.part.read()
        rough = Habits(
            spread_ms=34, wrong_keys=0.1, misses=0.1, jumps=(Jump(bar=5, quarters=1.5),), lead_ms=60
        )
        take = factories.handed_in(
            self.student, self.given, events=events_from_take(play(part, rough, seed=3))
        )
        self.assertEqual(len(things_to_do(self.student, take, ENGLISH)), MAX_THINGS)
        slipped = Habits(spread_ms=6, jumps=(Jump(bar=5, quarters=1.5),))
        take = factories.handed_in(
            self.student, self.given, events=events_from_take(play(part, slipped, seed=3))
        )
        things = things_to_do(self.student, take, ENGLISH)
        slip = next(thing for thing in things if thing.bars == (5, 5))
        self.assertEqual(slip.practise, f"/stand/{self.given.pk}/?from=4&to=6&percent=75")
        # A rung about just these bars is opened instead; as long as it is shut, the bars are.
        rungs = (
            Rung(name="all", first_bar=1, last_bar=8),
            Rung(name="the corner", first_bar=4, last_bar=6, tempo_percent=60),
        )
        for ladder, rung, address in (
            (rungs[::-1], "the corner", "?from=4&to=6&percent=60&rung=1"),
            (rungs, "", "?from=4&to=6&percent=75"),
        ):
            set_ladder(self.teacher, Exercise.objects.get(pk=self.exercise.pk), Ladder(rungs=ladder))
            take.assignment.exercise.refresh_from_db()
            slip = next(t for t in things_to_do(self.student, take, ENGLISH) if t.bars == (5, 5))
            self.assertEqual((slip.rung, slip.practise), (rung, f"/stand/{self.given.pk}/{address}"))

    def test_a_good_take_leaves_nothing_to_do(self) -> None:
        take = factories.handed_in(self.student, self.given, habits=Habits(spread_ms=2))
        self.assertEqual(things_to_do(self.student, take, ENGLISH), [])
        release(self.teacher, take)
        self.client.force_login(self.student)
        page = self.client.get(f"/takes/{take.pk}/")
        self.assertContains(page, "What went well")
        self.assertContains(page, "Nothing stood out. Raise the tempo")

    def test_the_report_on_paper_has_one_page_or_two_whatever_the_length(self) -> None:
        for part in (melody(), melody(bars=64), two_hands(bars=100)):
            given = factories.assignment(factories.exercise(self.teacher, part), self.school_class)
            take = factories.handed_in(self.student, given, habits=Habits(spread_ms=30, misses=0.1))
            remark = write_remark(self.teacher, take, text="Breathe before bar 4.", bar=4, beat=1)
            pdf = report_pdf(AnalysedTake(take), [remark], ENGLISH)
            self.assertTrue(pdf.startswith(b"%PDF"))
            self.assertIn(pages_of(pdf), (1, 2), len(part.bars))

    def test_the_report_on_paper_says_what_the_teacher_decided(self) -> None:
        take = factories.handed_in(self.student, self.given)
        give_score(self.teacher, take, "notes", TeacherScore(score=55, why="I heard it in the room."))
        with patch("oido.reports.pdf.write_pdf", return_value=b"%PDF") as written:
            report_pdf(AnalysedTake(Take.objects.get(pk=take.pk)), [], ENGLISH)
        [html] = written.call_args.args
        self.assertRegex(html, r"your teacher’s score, instead of\s+100")
        self.assertIn("I heard it in the room.", html)

    def test_paper_is_the_students_only_after_release(self) -> None:
        take = factories.handed_in(self.student, self.given)
        url = f"/takes/{take.pk}/report.pdf"
        self.client.force_login(self.student)
        self.assertEqual(self.client.get(url).status_code, 404)
        release(self.teacher, take)
        answer = factories.made(self.client, url)
        self.assertEqual(answer["Content-Type"], "application/pdf")
        self.assertRegex(answer["Content-Disposition"], r"ada-tester-exercise-\d+\.pdf")

    def test_drawn_heads_tell_by_their_shape_how_they_were_played(self) -> None:
        take = factories.handed_in(
            self.student, self.given, habits=Habits(spread_ms=30, misses=0.15, wrong_keys=0.1)
        )
        reading = AnalysedTake(take)
        svg = notated(reading, PLAIN, width=800)
        told = {"early": "early", "late": "late", "wrong": "wrong", "missed": "missed"}
        for verdict, shape in told.items():
            count = sum(at.row.verdict == verdict for at in reading.rows())
            self.assertEqual(svg.count(f'class="head-mark is-{shape}"'), count, verdict)
            self.assertEqual(svg.count(f"went-{verdict}"), count, verdict)


class ProgressTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student, cls.other = factories.teacher(), factories.student(), factories.student()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student, cls.other])
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        part = cls.given.exercise.part.read()
        for seed, spread in enumerate((50, 43, 36, 29, 22, 15, 8)):
            events = events_from_take(play(part, Habits(spread_ms=spread), seed=seed))
            cls.last = factories.take(cls.student, cls.given, events=events)
        hand_in(cls.student, cls.last)

    def test_improvement_is_told_with_its_size_against_chance(self) -> None:
        progress = student_progress(self.student, self.student)
        self.assertEqual(progress.takes, 7)
        steadiness = progress.followed[0]
        self.assertEqual(steadiness.over_all.tone, "well")
        self.assertRegex(
            steadiness.over_all.text,
            r"Steadier by \d+ ms over 7 takes: the trend runs from \d+ to \d+; a change within ±\d+ ms is normal variation",
        )
        self.assertEqual(progress.followed[2].over_all.text, "Unchanged over 7 takes, at 100.")
        # A student reads it without figures, which are in the table.
        self.client.force_login(self.student)
        page = self.client.get("/progress/")
        self.assertContains(page, "Your beat got clearly steadier over 7 takes.")
        self.assertContains(page, "About the same as before.")
        self.assertEqual(progress.best[0].take, self.last)
        self.assertAlmostEqual(progress.minutes, 7 * 32 / 96, delta=0.1)

    def test_what_was_deleted_or_not_handed_in_is_not_the_teachers(self) -> None:
        self.assertEqual(student_progress(self.teacher, self.student).takes, 1)
        delete_take(self.student, self.given.takes.get(number=1))
        self.assertEqual(student_progress(self.student, self.student).takes, 6)
        stranger = factories.teacher()
        self.client.force_login(stranger)
        for url in (f"/students/{self.student.pk}/progress/", f"/classes/{self.school_class.pk}/progress/"):
            self.assertEqual(self.client.get(url).status_code, 404)
        self.client.force_login(self.teacher)
        self.assertContains(
            self.client.get(f"/students/{self.student.pk}/progress/"),
            "at least 4 takes are needed to show a trend",
        )
        self.assertEqual(self.client.get("/progress/").status_code, 403)

    def test_pages_ask_no_more_for_more_takes(self) -> None:
        for more in (0, 4):
            for _ in range(more):
                factories.take(self.student, self.given)
                factories.handed_in(self.other, self.given)
            self.client.force_login(self.student)
            with self.subTest(more=more), self.assertNumQueries(5):
                self.client.get("/progress/?exercise=x")
            self.client.force_login(self.teacher)
            with self.subTest(more=more), self.assertNumQueries(5):
                self.client.get(f"/classes/{self.school_class.pk}/progress/")


class ClassPictureTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.students = factories.teacher(), [factories.student() for _ in range(3)]
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.given = factories.assignment(factories.exercise(cls.teacher, two_hands()), cls.school_class)
        for student in cls.students[:2]:
            factories.handed_in(student, cls.given, habits=Habits(spread_ms=3, left_hand_ms=140))

    def setUp(self) -> None:
        self.client.force_login(self.teacher)
        self.url = f"/assignments/{self.given.pk}/"

    def test_by_hand_it_shows_which_hand_trips(self) -> None:
        shades = {}
        for hand in ("left", "right"):
            page = self.client.get(f"{self.url}?of={hand}")
            shades[hand] = sum(bar.shade for row in page.context["picture"].rows for bar in row.bars)
        self.assertGreater(shades["left"], 3 * shades["right"])
        self.assertEqual(len(self.client.get(f"{self.url}?of=nose").context["picture"].rows), 2)
        self.assertContains(self.client.get(self.url), self.students[2].name)

    def test_who_played_an_older_part_is_not_called_missing(self) -> None:
        replace_part(self.given.exercise, melody())
        page = self.client.get(self.url)
        self.assertEqual([s.pk for s in page.context["missing"]], [self.students[2].pk])
        self.assertContains(self.client.get(f"{self.url}who/"), "2 of 3 handed in")
        self.assertContains(page, "All takes were recorded against an older part.")

    def test_an_exercise_is_made_of_just_the_bars_that_were_chosen(self) -> None:
        answer = self.client.post(f"{self.url}bars/", {"bar": ["2", "7"]})
        made = Exercise.objects.latest("pk")
        self.assertRedirects(answer, f"/bench/{made.pk}/")
        whole, part = self.given.exercise.part.read(), made.part.read()
        pitches = [n.pitch for i, n in enumerate(whole.notes) if whole.bar_of_note[i] in (2, 7)]
        self.assertEqual([n.pitch for n in part.notes], pitches)
        self.assertEqual((len(part.bars), made.variation_of), (2, self.given.exercise.part))
        self.assertIn("bars 2, 7", made.title)
        for wrong in ([], ["99"], ["x"]):
            self.assertRedirects(self.client.post(f"{self.url}bars/", {"bar": wrong}), self.url)
        self.assertEqual(Exercise.objects.latest("pk"), made)
