"""Rubrics of a school: made, changed as versions, copied, shared; and takes marked again by another one."""

from unittest import mock

from django.test import TestCase

from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.notes import Kind
from ear.players.robot import Habits
from oido.assignments.services import Terms, give_exercise
from oido.common.permissions import NotAllowed
from oido.marking import remarking
from oido.marking.models import MarkSheet, Remarking
from oido.marking.services import release
from oido.rubrics.models import Rubric as StoredRubric
from oido.rubrics.services import change_rubric, copy_rubric, make_rubric, share_rubric
from oido.takes.judging import judged
from oido.takes.models import Take
from tests.ear.test_rubrics import OWN
from tests.oido import factories

STRICT = Rubric.from_json({**DEFAULT_RUBRICS[Kind.KEYBOARD].to_json(), "level": "exacting", "out_of": 20})
State = Remarking.State


def form_data(form, **changes: str) -> dict[str, str]:
    """What a browser would send of a rubric's form as it stands."""
    data = {name: form[name].value() for name in form.fields}
    for rows in (form.hand, form.bands, form.help):
        data |= {
            f"{rows.prefix}-{name}": rows.management_form[name].value()
            for name in rows.management_form.fields
        }
        for row in rows:
            data |= {row.add_prefix(name): row[name].value() for name in row.fields}
    kept = {name: value for name, value in data.items() if value is not None and value is not False}
    return {**{n: "on" if v is True else v for n, v in kept.items()}, **changes}


class RubricPagesTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.colleague = factories.teacher(), factories.teacher()
        cls.rubric = make_rubric(cls.teacher, name="Own", kind="keyboard", says=OWN)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)
        self.url = f"/rubrics/{self.rubric.pk}/"

    def test_a_form_sent_as_it_stands_changes_nothing(self) -> None:
        form = self.client.get(self.url).context["form"]
        self.client.post(self.url, form_data(form))
        self.rubric.refresh_from_db()
        self.assertEqual((self.rubric.current.number, self.rubric.current.read()), (1, OWN))

    def test_a_change_is_a_new_version_and_the_old_one_stays(self) -> None:
        form = self.client.get(self.url).context["form"]
        changed = form_data(
            form, **{"weight-flow": "15", "hand-2-label": "Breath", "hand-2-weight": "5", "hand-2-how": "number",
                     "hand-0-label": "", "bands-3-least": "95", "bands-3-name": "Shining"},
        )  # fmt: skip
        self.client.post(self.url, changed)
        self.rubric.refresh_from_db()
        says = self.rubric.current.read()
        self.assertEqual(self.rubric.current.number, 2)
        self.assertEqual([c.label for c in says.teacher_criteria], ["Told", "Breath"])
        self.assertEqual(says.teacher_criteria[0].key, "hand-talk")
        self.assertEqual(says.band(96).name, "Shining")
        self.assertEqual(self.rubric.versions.get(number=1).read(), OWN)

    def test_what_is_wrong_is_said_beside_it(self) -> None:
        form = self.client.get(self.url).context["form"]
        for changes, said in (
            ({"hand-0-lines": "stiff\neasy = 100"}, "not “stiff”"),
            ({"hand-1-lines": " "}, "One per line."),
            ({"hand-0-weight": ""}, "Enter a weight."),
            ({"bands-0-least": "10"}, "must begin at 0"),
            ({"bands-1-name": ""}, "A band has a name"),
            ({"out_of": "0"}, "greater than or equal to 1"),
            (
                {"weight-notes": "0", "weight-timing": "0", "hand-0-label": "", "hand-1-label": ""},
                "one must be above 0",
            ),
        ):
            with self.subTest(changes=changes):
                self.assertContains(
                    self.client.post(self.url, form_data(form, **changes)), said, status_code=422
                )

    def test_shared_rubrics_are_looked_at_and_copied_not_changed(self) -> None:
        with self.assertRaises(NotAllowed):
            copy_rubric(self.colleague, self.rubric, name="Mine")
        share_rubric(self.teacher, self.rubric, is_shared=True)
        self.client.force_login(self.colleague)
        self.assertContains(self.client.get("/rubrics/"), "Shared by others")
        self.assertContains(self.client.get(self.url), "explained it, played it in time")
        self.assertEqual(self.client.post(self.url).status_code, 404)
        self.client.post(f"{self.url}copy/")
        self.assertEqual(StoredRubric.objects.get(owner=self.colleague).current.read(), OWN)
        for refused in (
            lambda: change_rubric(self.colleague, self.rubric, name="x", says=OWN),
            lambda: share_rubric(self.colleague, self.rubric, is_shared=False),
            lambda: make_rubric(factories.student(), name="x", kind="drums", says=OWN),
        ):
            with self.assertRaises(NotAllowed):
                refused()

    def test_a_new_one_starts_as_oidos_own(self) -> None:
        form = self.client.get("/rubrics/new/drums/").context["form"]
        self.client.post("/rubrics/new/drums/", form_data(form, name="Beat"))
        made = StoredRubric.objects.get(name="Beat")
        self.assertEqual(made.current.read(), DEFAULT_RUBRICS[Kind.DRUMS])
        self.assertEqual(self.client.get("/rubrics/new/flute/").status_code, 404)


class RemarkingTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.students = [factories.student() for _ in range(4)]
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        cls.takes = [
            factories.handed_in(student, cls.given, habits=Habits(spread_ms=26)) for student in cls.students
        ]
        release(cls.teacher, cls.takes[0])
        cls.rubric = make_rubric(cls.teacher, name="Strict", kind="keyboard", says=STRICT)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def begin(self, **more) -> Remarking:
        return remarking.begin(
            self.teacher, self.given, self.rubric.current, **{"with_released": False, **more}
        )

    def marks(self) -> list[tuple[float, int]]:
        return [(s.points, s.out_of) for s in MarkSheet.objects.order_by("pk")]

    def test_trying_changes_nothing_keeping_does_and_released_marks_stay(self) -> None:
        before = self.marks()
        job = self.begin()
        self.assertTrue(factories.mark_next())
        job.refresh_from_db()
        self.assertEqual((job.state, job.done, job.takes), (State.TRIED, 3, 3))
        self.assertEqual(self.marks(), before)
        page = self.client.get(f"/remarkings/{job.pk}/")
        self.assertContains(page, "Save these marks")
        self.client.post(f"/remarkings/{job.pk}/", {"keep": "1"})
        self.assertContains(
            self.client.get(f"/remarkings/{job.pk}/", headers={"HX-Request": "true"}), "every 700ms"
        )
        factories.mark_next()
        self.assertFalse(factories.mark_next())
        now = self.marks()
        self.assertEqual(now[0], before[0])
        self.assertEqual([out_of for _, out_of in now[1:]], [20, 20, 20])
        job.refresh_from_db()
        self.assertEqual(sorted((row[5], row[6]) for row in job.rows), sorted(now[1:]))
        take = Take.objects.get(pk=self.takes[1].pk)
        self.assertEqual(
            (take.judgement.rubric, judged(take).scores.level), (self.rubric.current, "exacting")
        )
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "of 20")
        # Who hands in from now on is marked by it, too.
        late = factories.student()
        self.school_class.students.add(late)
        self.given.refresh_from_db()
        self.assertEqual(factories.handed_in(late, self.given).sheet.out_of, 20)

    def test_many_takes_are_worked_through_some_at_a_time_and_go_on_after_a_stop(self) -> None:
        with mock.patch.object(remarking, "CHUNK", 2):
            job = self.begin(with_released=True)
            factories.mark_next()
            job.refresh_from_db()
            self.assertEqual((job.state, job.done, len(job.rows)), (State.TRYING, 2, 4))
            self.assertContains(self.client.get(f"/remarkings/{job.pk}/"), "2 of 4 takes are marked")
            factories.mark_next()
        job.refresh_from_db()
        self.assertEqual(job.state, State.TRIED)

    def test_a_job_that_fails_says_so_and_leaves_no_mark_half_changed(self) -> None:
        before = self.marks()
        job = self.begin()
        with (
            mock.patch.object(remarking, "row_of", side_effect=RuntimeError),
            self.assertLogs("oido", "ERROR"),
        ):
            factories.mark_next()
        job.refresh_from_db()
        self.assertEqual((job.state, self.marks()), (State.FAILED, before))
        self.assertContains(self.client.get(f"/remarkings/{job.pk}/"), "Something went wrong")
        self.assertFalse(factories.mark_next())

    def test_a_trial_is_dropped_by_another_and_by_its_teacher(self) -> None:
        first, second = self.begin(), self.begin()
        first.refresh_from_db()
        self.assertEqual(first.state, State.DROPPED)
        self.client.post(f"/remarkings/{second.pk}/", {"drop": "1"})
        second.refresh_from_db()
        self.assertEqual(second.state, State.DROPPED)
        with self.assertRaises(NotAllowed):
            remarking.save_remarking(self.teacher, second)
        with self.assertRaises(NotAllowed):
            remarking.begin(factories.teacher(), self.given, None, with_released=False)
        drums = make_rubric(self.teacher, name="Beat", kind="drums", says=DEFAULT_RUBRICS[Kind.DRUMS])
        with self.assertRaises(NotAllowed):
            remarking.begin(self.teacher, self.given, drums.current, with_released=False)

    def test_without_takes_the_rubric_is_set_at_once_and_given_with_an_exercise(self) -> None:
        empty = factories.assignment(factories.exercise(self.teacher), self.school_class)
        self.client.post(f"/assignments/{empty.pk}/rubric/", {"rubric": self.rubric.current_id})
        empty.refresh_from_db()
        self.assertEqual(empty.rubric, self.rubric.current)
        exercise = factories.exercise(self.teacher)
        made = give_exercise(
            self.teacher,
            exercise,
            self.school_class,
            due_at=empty.due_at,
            terms=Terms(rubric=self.rubric.current),
        )
        self.assertEqual(factories.handed_in(self.students[0], made).sheet.out_of, 20)
        stranger = make_rubric(factories.teacher(), name="Hers", kind="keyboard", says=OWN)
        with self.assertRaises(NotAllowed):
            give_exercise(
                self.teacher,
                exercise,
                self.school_class,
                due_at=empty.due_at,
                terms=Terms(rubric=stranger.current),
            )
