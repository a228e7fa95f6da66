"""Judgements as rows: trials touch nothing, two writers lose nothing, old results open, new versions propose."""

import hashlib
import json
import threading
from datetime import timedelta
from pathlib import Path
from unittest import mock

from django.apps import apps
from django.core import serializers
from django.db import connection, transaction
from django.db.migrations.executor import MigrationExecutor
from django.db.migrations.recorder import MigrationRecorder
from django.test import TestCase, TransactionTestCase
from django.utils import timezone

from ear.criteria.notes import NOTES
from ear.extraction.codec import facts_from_json
from ear.extraction.extraction import VERSION
from ear.extraction.upgrading import upgrade_facts
from ear.findings.kind import FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.judgement import TeacherScore
from ear.judging.rubric import DEFAULT_RUBRICS, Rubric
from ear.notes import Kind
from ear.players.robot import Habits
from ear.reader import ENGLISH
from oido.assignments.services import Terms, change_assignment
from oido.marking import remarking, remeasuring
from oido.marking.models import MarkSheet, Remarking, Remeasuring
from oido.marking.services import give_score, release
from oido.marking.several import release_all
from oido.marking.sheets import first_heard
from oido.rubrics.services import make_rubric
from oido.takes.judging import judged
from oido.takes.models import Judgement, Measurement, Take
from tests.oido import factories
from tests.oido.clients import DeskClient

STORED = Path(__file__).parents[1] / "ear" / "stored"
ROUGH = Habits(spread_ms=30, wrong_keys=0.1)
BACKGROUND = {"jobs", "django_tasks_database"}
STRICT = Rubric.from_json({**DEFAULT_RUBRICS[Kind.KEYBOARD].to_json(), "level": "exacting"})


def tables(*, without: set[str] = frozenset()) -> dict[str, str]:
    """A hash of all rows of each table."""
    actual = {}
    for model in apps.get_models():
        if model._meta.app_label in BACKGROUND:
            continue
        if model.__name__ not in without:
            rows = serializers.serialize("json", model._base_manager.order_by("pk"))
            actual[model.__name__] = hashlib.sha256(rows.encode()).hexdigest()
    return actual


class Scene:
    """A class whose takes are handed in, and a strict rubric."""

    def set_up(self, students: int = 3) -> None:
        self.teacher = factories.teacher()
        self.students = [factories.student() for _ in range(students)]
        self.school_class = factories.school_class(teachers=[self.teacher], students=self.students)
        self.given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        self.takes = [factories.handed_in(s, self.given, habits=ROUGH) for s in self.students]
        self.rubric = make_rubric(self.teacher, name="Strict", kind="keyboard", says=STRICT)

    def tried(self, **more) -> Remarking:
        job = remarking.begin(
            self.teacher, self.given, self.rubric.current, **{"with_released": False, **more}
        )
        while factories.mark_next():
            pass
        job.refresh_from_db()
        return job


class TrialTest(Scene, TestCase):
    client_class = DeskClient

    def setUp(self) -> None:
        self.set_up()
        self.client.force_login(self.teacher)

    def test_a_trial_adds_rows_and_drops_them_and_touches_nothing_else(self) -> None:
        own = {"Remarking", "Trial", "Judgement"}
        others, every = tables(without=own), tables(without={"Remarking"})
        job = self.tried()
        self.assertEqual(job.state, Remarking.State.TRIED)
        self.assertEqual(job.trials.count(), 3)
        self.assertEqual(tables(without=own), others)
        remarking.discard(self.teacher, job)
        self.assertEqual(tables(without={"Remarking"}), every)

    def test_keeping_points_the_takes_at_what_was_tried(self) -> None:
        job = self.tried()
        tried = dict(job.trials.values_list("take_id", "judgement_id"))
        remarking.save_remarking(self.teacher, job)
        factories.mark_next()
        for take in Take.objects.all():
            self.assertEqual(take.judgement_id, tried[take.pk])
            self.assertEqual(take.sheet.total, judged(take).judgement.total)
            self.assertEqual(judged(take).scores.level, "exacting")

    def late(self, **changed) -> None:
        """The teacher changes dates or terms of the assignment."""
        terms = Terms(late=changed.get("late", self.given.late))
        due_at = changed.get("due_at", self.given.due_at)
        change_assignment(self.teacher, self.given, due_at=due_at, opens_at=None, terms=terms)
        self.given.refresh_from_db()

    def test_lateness_is_counted_anew_in_released_marks_and_the_preview_says_so(self) -> None:
        in_time = self.given.due_at
        self.late(due_at=timezone.now() - timedelta(days=2, hours=1), late="costs")
        late = MarkSheet.objects.get(take=self.takes[0])
        self.assertEqual((late.late_days, late.late_days_charged), (3, 3))
        release(self.teacher, self.takes[0])
        self.late(due_at=in_time)
        seen = MarkSheet.objects.get(take=self.takes[0])
        # What the student has seen stays until a teacher has it marked again.
        self.assertEqual((seen.late_days, seen.late_days_charged, seen.total), (0, 3, late.total))
        job = self.tried(with_released=True)
        [row] = [row for row in remarking.rows_of(job) if row["is_released"]]
        changes = dict(row["changes"])
        self.assertEqual(changes["late"], 15.0)
        self.assertAlmostEqual(row["total_before"] + sum(changes.values()), row["total"])
        self.assertContains(
            self.client.get(f"/remarkings/{job.pk}/"), f"+ 15 (handed in late) = {row['total']:g}"
        )
        remarking.save_remarking(self.teacher, job)
        factories.mark_next()
        sheet = MarkSheet.objects.get(take=self.takes[0])
        self.assertEqual((sheet.late_days_charged, sheet.points), (0, row["points"]))

    def test_a_rule_set_after_the_hand_in_takes_no_points_from_those_in_time(self) -> None:
        for take in self.takes:
            release(self.teacher, take)
        before = {sheet.pk: sheet.points for sheet in MarkSheet.objects.all()}
        MarkSheet.objects.update(late_days=6)
        self.late(late="costs")
        for row in remarking.rows_of(self.tried(with_released=True)):
            self.assertNotIn("late", dict(row["changes"]))
        self.assertEqual({sheet.pk: sheet.points for sheet in MarkSheet.objects.all()}, before)
        self.assertEqual(MarkSheet.objects.filter(late_days__gt=0).count(), 0)

    def test_what_a_teacher_changed_between_trial_and_keeping_counts(self) -> None:
        job = self.tried()
        give_score(self.teacher, self.takes[0], "notes", TeacherScore(score=100, why="ornaments"))
        remarking.save_remarking(self.teacher, job)
        factories.mark_next()
        take = Take.objects.get(pk=self.takes[0].pk)
        self.assertEqual(take.sheet.changes["notes"]["score"], 100)
        self.assertEqual(judged(take).judgement.criterion(NOTES).score, 100.0)
        self.assertEqual(take.sheet.total, judged(take).judgement.total)

    def test_a_take_measured_anew_since_it_was_tried_is_judged_by_the_kept_rubric(self) -> None:
        Measurement.objects.update(version="2026.11.3")
        job = self.tried()
        remeasuring.begin_if_due()
        remeasuring.step()
        remarking.save_remarking(self.teacher, job)
        factories.mark_next()
        for take in Take.objects.order_by("recorded_at", "pk"):
            self.assertEqual(
                (take.judgement.rubric, judged(take).scores.level), (self.rubric.current, "exacting")
            )
        versions = Take.objects.order_by("recorded_at", "pk").values_list(
            "judgement__measurement__version", flat=True
        )
        self.assertEqual(list(versions), [VERSION, "2026.11.3", "2026.11.3"])


class TwoWritersTest(Scene, TransactionTestCase):
    """A teacher changes a mark while a worker keeps a rubric: whoever comes first, nothing is lost."""

    def setUp(self) -> None:
        self.set_up(students=1)

    def both(self, first, second) -> None:
        """`second` begins while `first` is within its transaction, and has to wait for it."""
        within, problems = threading.Event(), []

        def run(act, begins: threading.Event | None) -> None:
            try:
                if begins is not None:
                    begins.wait(5)
                act()
            except Exception as problem:
                problems.append(problem)
            finally:
                connection.close()

        def slow() -> None:
            with transaction.atomic():
                first()
                within.set()
                # The other one is at the lock by now, or has read what it should not have.
                waiting.join(0.7)

        waiting = factories.thread(target=run, args=(second, within))
        leading = factories.thread(target=run, args=(slow, None))
        waiting.start()
        leading.start()
        leading.join(20)
        waiting.join(20)
        self.assertEqual(problems, [])

    def check(self) -> None:
        take = Take.objects.get()
        self.assertEqual(take.sheet.changes["flow"]["score"], 12.0)
        self.assertEqual(take.judgement.rubric, self.rubric.current)
        self.assertEqual(take.sheet.total, judged(take).judgement.total)

    def test_the_teacher_first(self) -> None:
        job = self.tried()
        remarking.save_remarking(self.teacher, job)
        self.both(
            lambda: give_score(self.teacher, self.takes[0], "flow", TeacherScore(score=12.0)),
            factories.mark_next,
        )
        self.check()

    def test_the_worker_first(self) -> None:
        job = self.tried()
        remarking.save_remarking(self.teacher, job)
        self.both(
            factories.mark_next,
            lambda: give_score(self.teacher, self.takes[0], "flow", TeacherScore(score=12.0)),
        )
        self.check()

    def test_two_teachers_change_two_criteria(self) -> None:
        other = factories.teacher()
        self.school_class.teachers.add(other)
        self.both(
            lambda: give_score(self.teacher, self.takes[0], "flow", TeacherScore(score=12.0)),
            lambda: give_score(other, self.takes[0], "notes", TeacherScore(score=34.0)),
        )
        self.assertEqual(
            {name: said["score"] for name, said in MarkSheet.objects.get().changes.items()},
            {"flow": 12.0, "notes": 34.0},
        )


class NewVersionTest(Scene, TestCase):
    client_class = DeskClient

    """After a new version of the measuring stored takes are measured again."""

    def setUp(self) -> None:
        self.set_up()
        release(self.teacher, self.takes[0])
        Measurement.objects.update(version="2026.11.3")
        self.client.force_login(self.teacher)

    def work(self) -> Remeasuring:
        job = remeasuring.begin_if_due()
        assert job is not None
        while remeasuring.step():
            pass
        job.refresh_from_db()
        return job

    def test_takes_are_measured_again_with_progress_and_released_marks_wait_for_a_teacher(self) -> None:
        MarkSheet.objects.update(total=1.0, points=1.0)
        job = remeasuring.begin_if_due()
        self.assertEqual((remeasuring.begin_if_due(), job.takes), (job, 3))
        remeasuring.step()
        self.assertContains(self.client.get("/marking/"), "1 of 3")
        self.assertContains(self.client.get("/marking/measuring/"), "1 of 3")
        self.work()
        self.assertNotContains(self.client.get("/marking/"), "of 3")
        self.assertIsNone(remeasuring.begin_if_due())
        seen, open_ = (Take.objects.get(pk=take.pk) for take in self.takes[:2])
        self.assertEqual((seen.sheet.points, seen.judgement.measurement.version), (1.0, "2026.11.3"))
        self.assertGreater(open_.sheet.points, 1.0)
        self.assertIsNone(open_.proposed)
        page = self.client.get(f"/takes/{seen.pk}/")
        self.assertContains(page, "A newer version of Oido has measured this take again")
        self.client.post(f"/takes/{seen.pk}/mark-again/", {"agree": "1"})
        agreed = Take.objects.get(pk=seen.pk)
        self.assertEqual((agreed.judgement, agreed.proposed), (seen.proposed, None))
        self.assertGreater(agreed.sheet.points, 1.0)

    def test_a_teacher_leaves_a_mark_as_it_was_seen(self) -> None:
        self.work()
        before = Take.objects.get(pk=self.takes[0].pk)
        self.client.post(f"/takes/{before.pk}/mark-again/", {"decline": "1"})
        after = Take.objects.get(pk=before.pk)
        self.assertEqual((after.judgement, after.proposed), (before.judgement, None))
        self.assertNotContains(self.client.get(f"/takes/{after.pk}/"), "A newer version")
        self.client.force_login(self.students[0])
        self.assertEqual(self.client.post(f"/takes/{after.pk}/mark-again/", {"agree": "1"}).status_code, 403)

    def test_one_that_cannot_be_measured_holds_up_no_other(self) -> None:
        with (
            mock.patch("oido.takes.services.measured", side_effect=RuntimeError),
            self.assertLogs("oido", "ERROR"),
        ):
            remeasuring.begin_if_due()
            remeasuring.step()
        job = self.work()
        self.assertEqual((job.done, len(job.failed)), (3, 1))

    def test_what_cannot_be_read_says_so_and_breaks_no_other_page(self) -> None:
        broken = self.takes[1]
        Measurement.objects.filter(take=broken).update(facts={"schema": "of another time"})
        mixed = Judgement.objects.get(pk=self.takes[2].judgement_id)
        Judgement.objects.filter(pk=mixed.pk).update(scores={**mixed.scores, "judged_ms": []})
        self.assertContains(self.client.get(f"/takes/{self.takes[2].pk}/"), "cannot be read")
        Judgement.objects.filter(pk=mixed.pk).update(scores=mixed.scores)
        for url in (
            "/marking/", f"/assignments/{self.given.pk}/", f"/assignments/{self.given.pk}/clear/", "/",
            f"/classes/{self.school_class.pk}/progress/", f"/takes/{self.takes[2].pk}/",
        ):  # fmt: skip
            self.assertEqual(self.client.get(url).status_code, 200, url)
        page = self.client.get(f"/takes/{broken.pk}/")
        self.assertContains(page, "cannot be read")
        for url in ("mark/timing/", "try/", "rows/?from=0", "notes/t0/", "notation/", "report.pdf"):
            self.assertEqual(self.client.get(f"/takes/{broken.pk}/{url}").status_code, 404, url)
        self.assertEqual(self.client.post(f"/takes/{broken.pk}/help/", {"help": ""}).status_code, 404)
        self.assertEqual(self.client.post(f"/takes/{broken.pk}/accept/").status_code, 302)
        self.client.force_login(self.students[1])
        self.assertContains(self.client.get(f"/stand/{self.given.pk}/"), "Measure it again")
        self.client.force_login(self.teacher)
        self.assertEqual(self.tried().state, Remarking.State.TRIED)
        self.client.post(f"/takes/{broken.pk}/measure/")
        self.assertNotContains(self.client.get(f"/takes/{broken.pk}/"), "cannot be read")

    def test_a_released_mark_that_cannot_be_read_is_its_teachers_to_replace(self) -> None:
        seen, student = self.takes[0], self.students[0]
        before = Take.objects.get(pk=seen.pk).judgement_id
        remeasuring.measure_now(self.teacher, seen)
        self.assertEqual(Take.objects.get(pk=seen.pk).judgement_id, before, "what can be read stays")
        Measurement.objects.filter(take=seen).update(facts={})
        MarkSheet.objects.filter(take=seen).update(total=1.0, points=1.0)
        self.client.force_login(student)
        self.assertContains(self.client.get(f"/takes/{seen.pk}/"), "Ask your teacher")
        self.assertEqual(self.client.post(f"/takes/{seen.pk}/measure/").status_code, 403)
        self.client.force_login(self.teacher)
        self.client.post(f"/takes/{seen.pk}/measure/")
        after = Take.objects.get(pk=seen.pk)
        self.assertEqual(after.sheet.total, judged(after).judgement.total)
        self.assertEqual(release_all(self.teacher, [], {}).done, ())


class UpgradeTest(TransactionTestCase):
    """What the second release stored is rewritten, and reads as it read then."""

    BEFORE = (
        ("takes", "0001_second_release"), ("marking", "0002_second_release"), ("access", "0002_second_release"),
        ("people", "0001_second_release"),
    )  # fmt: skip

    def migrate(self, targets):
        executor = MigrationExecutor(connection)
        executor.loader.build_graph()
        executor.migrate(targets)
        return executor.loader.project_state(targets).apps

    def tearDown(self) -> None:
        executor = MigrationExecutor(connection)
        self.migrate(executor.loader.graph.leaf_nodes())

    def test_tables_that_the_second_release_made_are_taken_as_they_are(self) -> None:
        self.migrate([*self.BEFORE, ("exercises", "0002_second_release")])
        executor = MigrationExecutor(connection)
        replaced = {old for one in executor.loader.graph.nodes.values() for old in one.replaces}
        self.assertGreater(len(replaced), 80)
        recorder = MigrationRecorder(connection)
        before = recorder.migration_qs.filter(app__in={app for app, _ in replaced})
        before.delete()
        for app, name in replaced:
            recorder.record_applied(app, name)
        executor = MigrationExecutor(connection)
        planned = [
            f"{one.app_label}.{one.name}"
            for one, _ in executor.migration_plan(executor.loader.graph.leaf_nodes())
        ]
        self.assertEqual(
            sorted(planned),
            [
                "access.0003_identities",
                "exercises.0003_ready_made",
                "exercises.0004_begin_private",
                "marking.0003_heard_in_one_shape",
                "people.0002_two_step_and_quotas",
                "people.0003_languages",
                "people.0004_tours",
                "takes.0002_facts_in_one_shape",
                "takes.0003_practice_days",
                "takes.0004_take_numbers_by_student",
            ],
        )

    def test_facts_and_what_lists_show_stay(self) -> None:
        teacher, students = factories.teacher(), [factories.student() for _ in range(2)]
        school_class = factories.school_class(teachers=[teacher], students=students)
        given = factories.assignment(factories.exercise(teacher), school_class)
        whole, broken = (factories.handed_in(student, given).pk for student in students)
        folder = STORED / "second_release"
        facts = json.loads((folder / "facts-keyboard.json").read_text())
        note = next(
            n
            for n in json.loads((folder / "ear_notes.json").read_text())
            if n["stored"]["code"] == "wrong_key"
        )
        old = self.migrate(list(self.BEFORE))
        measurements, sheets = old.get_model("takes", "Measurement"), old.get_model("marking", "MarkSheet")
        asked = {"skill": "quantised", "in_words": "own", "terms": ""}
        shown = {"asked": asked, "count": 3, "of": 4, "is_done": True, "said": "I moved them."}
        old.get_model("takes", "Take").objects.filter(pk=whole).update(
            shown={"percent": 50, "things": [shown]}
        )
        measurements.objects.filter(take=whole).update(facts=facts)
        measurements.objects.filter(take=broken).update(facts={"schema": 2})
        sheets.objects.filter(take=whole).update(heard={**note["stored"], "rows": [], "confusions": []})
        self.migrate(MigrationExecutor(connection).loader.graph.leaf_nodes())
        showing = Take.objects.get(pk=whole).showing
        self.assertEqual((showing.things[0].count, showing.things[0].explanation), (3, "I moved them."))
        measured = Measurement.objects.get(take=whole).facts
        self.assertEqual(upgrade_facts(facts), measured)
        self.assertEqual(
            [finding.code for finding in facts_from_json(measured).findings],
            [finding["code"] for finding in facts["findings"]],
        )
        heard = first_heard(Take.objects.get(pk=whole).sheet)
        assert heard is not None
        self.assertEqual(render_finding(heard, FOR_TEACHER, ENGLISH), note["teacher"])
        self.assertEqual(Measurement.objects.get(take=broken).facts, {"schema": 2})
