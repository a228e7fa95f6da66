"""What a rubric would give, and the scale set by ear, as pages."""

from django.test import TestCase

from ear.criteria.levels import DEFAULT_LEVEL
from ear.judging.judge import Rules, judge
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.notes import Kind
from oido.people.models import School
from oido.rubrics.models import Rubric as StoredRubric
from oido.rubrics.scale import hearing_of, takes_of
from tests.oido import factories
from tests.oido.test_rubrics import form_data


class ExamplesTest(TestCase):
    """What a rubric would give, beside its fields, as they stand."""

    def test_marks_follow_the_form_and_nothing_is_saved(self) -> None:
        teacher = factories.teacher()
        self.client.force_login(teacher)
        page = self.client.get("/rubrics/new/drums/")
        self.assertContains(page, "What this rubric would give")
        data = form_data(page.context["form"])
        url = "/rubrics/preview/drums/"
        plain, strict = (
            self.client.post(url, {**data, **more}).context["would_give"]
            for more in ({}, {"level": "exacting"})
        )
        self.assertEqual([row.points for row in plain], [row.points for row in page.context["would_give"]])
        self.assertLess(strict[2].points, plain[2].points - 10)
        halved = self.client.post(url, {**data, "out_of": "20"}).context["would_give"]
        self.assertEqual(halved[0].points, 20)
        self.assertContains(
            self.client.post(url, {**data, "bands-0-least": "x"}), "once every field is filled"
        )
        self.assertEqual(self.client.post("/rubrics/preview/flute/", data).status_code, 404)
        self.assertFalse(StoredRubric.objects.exists())
        self.client.force_login(factories.student())
        self.assertEqual(self.client.post(url, data).status_code, 403)


class ScaleTest(TestCase):
    """The scale set by ear: marks are kept as they are written, fitted when all are there, saved as a rubric."""

    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.exercise = factories.exercise(self.teacher)
        self.url = f"/exercises/{self.exercise.pk}/scale/"
        self.client.force_login(self.teacher)

    def marks(self, by: Rubric) -> dict[str, str]:
        heard = takes_of(hearing_of(self.teacher, self.exercise))
        totals = [judge(one.facts, Rules(rubric=by, level=DEFAULT_LEVEL)).total for one in heard]
        return {f"mark-{k}": f"{total:.0f}" for k, total in enumerate(totals)}

    def test_from_hearing_to_a_rubric(self) -> None:
        page = self.client.get(self.url)
        self.assertContains(page, "8 takes are waiting to be marked")
        played = self.client.get(f"{self.url}takes/3/").json()
        self.assertEqual(len(played["target"]), len(self.exercise.part.read().notes))
        self.assertTrue(played["take"])
        marks = self.marks(DEFAULT_RUBRICS[Kind.KEYBOARD])
        self.client.post(self.url, dict(list(marks.items())[:3]))
        self.assertContains(self.client.get(self.url), "5 takes are waiting to be marked")
        done = self.client.post(self.url, marks, headers={"HX-Request": "true"})
        self.assertContains(done, "The scale that fits")
        self.assertLess(done.context["fitted"].greatest, 3)
        self.client.post(
            self.url, {**marks, "name": "As I hear it", "save": "1"}, headers={"HX-Request": "true"}
        )
        self.assertFalse(StoredRubric.objects.exists())
        saved = self.client.post(self.url, {**marks, "name": "As I hear it", "save": "1"})
        rubric = StoredRubric.objects.get()
        self.assertRedirects(saved, f"/rubrics/{rubric.pk}/")
        self.assertEqual((rubric.name, rubric.owner), ("As I hear it", self.teacher))
        self.assertEqual(rubric.current.read(), done.context["fitted"].rubric)

    def test_a_cleared_mark_is_taken_back_and_no_other_pages_marks(self) -> None:
        self.client.post(self.url, {"mark-0": "90", "mark-1": "70"})
        self.client.post(self.url, {"mark-0": "90", "mark-1": "", "mark-2": "60", "had": "0"})
        self.assertEqual(hearing_of(self.teacher, self.exercise).marks, {"0": 90, "1": 70, "2": 60})
        self.client.post(self.url, {"mark-0": "", "mark-1": "70", "mark-2": "60", "had": "0,1,2"})
        self.assertEqual(hearing_of(self.teacher, self.exercise).marks, {"1": 70, "2": 60})

    def test_contradictions_and_wrong_figures_are_told_and_nothing_is_saved(self) -> None:
        marks = self.marks(DEFAULT_RUBRICS[Kind.KEYBOARD])
        order = sorted(marks, key=lambda name: float(marks[name]))
        turned = {**marks, order[-1]: "20", order[0]: "100"}
        answer = self.client.post(self.url, {**turned, "save": "1"})
        self.assertContains(answer, f"Take {'ABCDEFGH'[int(order[-1][-1])]} is no worse than take")
        self.assertFalse(StoredRubric.objects.exists())
        wrong = self.client.post(self.url, {**marks, "mark-2": "190"}, headers={"HX-Request": "true"})
        self.assertContains(wrong, "Take C: Ensure this value is less than", status_code=422)
        for student_or_stranger in (
            factories.student(),
            factories.teacher(at=School.objects.create(name="Elsewhere")),
        ):
            self.client.force_login(student_or_stranger)
            self.assertIn(self.client.get(self.url).status_code, (403, 404))
