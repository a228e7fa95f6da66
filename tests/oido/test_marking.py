"""Marks: changed, released, seen; the pages' number of queries does not grow."""

from django.test import TestCase

from ear.judging.judgement import TeacherScore
from ear.players.robot import Habits
from oido.feedback.remarks import write_remark
from oido.marking.hand_in import hand_in
from oido.marking.models import MarkSheet, Remark
from oido.marking.services import give_score, release
from oido.takes.judging import judged
from oido.takes.models import Take
from tests.oido import factories
from tests.oido.clients import DeskClient

ROUGH = Habits(spread_ms=30, wrong_keys=0.15, lead_ms=40)


class MarkTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), school_class)
        cls.take = factories.handed_in(cls.student, cls.given, habits=ROUGH)
        cls.url = f"/takes/{cls.take.pk}/"

    def as_(self, who):
        self.client.force_login(who)
        return self.client

    def test_the_mark_is_the_machines_until_it_is_changed(self) -> None:
        stored = self.take.judgement.scores
        sheet, mark = self.take.sheet, judged(self.take).judgement
        self.assertEqual(sheet.total, mark.total)
        changed = give_score(
            self.teacher, self.take, "notes", TeacherScore(score=100, why="Ornaments are fine here.")
        )
        after = judged(Take.objects.get(pk=self.take.pk)).judgement
        self.assertAlmostEqual(after.sum - mark.sum, 0.35 * (100 - mark.criterion("notes").score))
        self.assertEqual(changed.total, after.total)
        back = give_score(self.teacher, self.take, "notes", None)
        self.assertAlmostEqual(back.total, sheet.total)
        self.take.judgement.refresh_from_db()
        self.assertEqual(self.take.judgement.scores, stored)

    def test_a_change_is_shown_beside_the_machines_figure_with_its_reason(self) -> None:
        client = self.as_(self.teacher)
        response = client.post(
            f"{self.url}mark/timing/",
            {"score": "64", "why": "Her keyboard lags."},
            headers={"HX-Request": "true"},
        )
        self.assertContains(response, "Her keyboard lags.")
        self.assertContains(response, "64")
        wrong = client.post(
            f"{self.url}mark/timing/", {"score": "140", "why": ""}, headers={"HX-Request": "true"}
        )
        self.assertContains(wrong, "less than or equal to 100", status_code=422)
        self.assertEqual(client.get(f"{self.url}mark/charm/").status_code, 404)

    def test_the_student_sees_mark_and_remarks_only_after_release(self) -> None:
        write_remark(self.teacher, self.take, text="Breathe in bar 4.", bar=4, beat=1)
        before = self.as_(self.student).get(self.url)
        self.assertNotContains(before, "Breathe in bar 4.")
        self.assertNotContains(before, "Show the working")
        self.assertContains(before, "What to do next")
        self.as_(self.teacher).post(f"{self.url}accept/", {"release": "1"})
        after = self.as_(self.student).get(self.url)
        self.assertContains(after, "Breathe in bar 4.")
        self.assertContains(after, "Show the working")
        self.assertNotContains(after, "Change Timing")

    def test_releasing_twice_keeps_the_first_time(self) -> None:
        first = release(self.teacher, self.take).released_at
        self.assertEqual(release(self.teacher, self.take).released_at, first)

    def test_remarks_are_pinned_to_bars_and_beats_that_exist(self) -> None:
        client = self.as_(self.teacher)
        for bar, beat, said in (
            (99, 1, "bars 1 to 8"),
            (2, 7, "beats 1 to 4"),
            ("", 2, "Enter a bar as well as a beat"),
        ):
            response = client.post(f"{self.url}remarks/", {"text": "Here", "bar": bar, "beat": beat})
            self.assertContains(response, said, status_code=422)
        client.post(f"{self.url}remarks/", {"text": "<b>Here</b>", "bar": 8, "beat": 4})
        self.assertContains(client.get(self.url), "&lt;b&gt;Here&lt;/b&gt;")
        remark = Remark.objects.get()
        client.post(f"{self.url}remarks/{remark.pk}/remove/")
        self.assertFalse(Remark.objects.exists())

    def test_the_report_draws_every_note_with_its_strips(self) -> None:
        page = self.as_(self.teacher).get(self.url).content.decode()
        notes = len(self.take.part.read().notes)
        self.assertEqual(page.count('class="target is-'), notes)
        self.assertEqual(page.count('class="written"'), notes)
        for part in ('class="drift"', 'class="bracket', "The picture as a table"):
            self.assertIn(part, page)


class QueriesTest(TestCase):
    """The same number of queries for two students as for eight."""

    def class_of(self, size: int):
        teacher = factories.teacher()
        students = [factories.student() for _ in range(size)]
        school_class = factories.school_class(teachers=[teacher], students=students)
        given = factories.assignment(factories.exercise(teacher), school_class)
        for student in students:
            hand_in(student, factories.take(student, given))
        return teacher, students[0], given

    def test_pages_do_not_ask_more_for_larger_classes(self) -> None:
        for size in (2, 8):
            teacher, student, given = self.class_of(size)
            take = MarkSheet.objects.filter(take__assignment=given).first().take
            self.client.force_login(teacher)
            for path, queries in (
                ("/", 11),
                ("/marking/", 7),
                ("/classes/", 6),
                (f"/takes/{take.pk}/", 11),
                (f"/assignments/{given.pk}/", 9),
                (f"/assignments/{given.pk}/clear/", 5),
            ):
                with self.subTest(size=size, path=path), self.assertNumQueries(queries):
                    self.client.get(path)
            release(teacher, take)
            self.client.force_login(take.student)
            self.client.get(f"/takes/{take.pk}/")
            with self.subTest(size=size, path="feedback"), self.assertNumQueries(9):
                self.client.get(f"/takes/{take.pk}/")
            self.client.force_login(student)
            # The first visit is kept in mind.
            self.client.get(f"/stand/{given.pk}/")
            for path, queries in (("/", 9), (f"/stand/{given.pk}/", 11)):
                with self.subTest(size=size, path=path), self.assertNumQueries(queries):
                    self.client.get(path)
