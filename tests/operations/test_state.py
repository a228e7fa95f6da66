"""Alive and ready, signs of life, and one scheduler at a time."""

import io
import json
from datetime import timedelta
from pathlib import Path
from unittest.mock import patch

from django.core.management import CommandError, call_command
from django.db import OperationalError, connection
from django.test import TestCase, TransactionTestCase, override_settings
from django.utils import timezone
from django_tasks_db.models import DBTaskResult

from oido.jobs.models import Job
from oido.operations import state
from oido.operations.helpers import beat, count_alive, forget_ended, leave
from oido.operations.looping import Schedule, forget_done_tasks
from oido.operations.models import Helper
from oido.people.scope import Scope, within
from oido.post.models import Email
from oido.takes.models import Take
from oido.takes.tasks import measure_beside
from tests.oido import factories

TOKEN = "word-of-the-house"


@override_settings(ALLOWED_HOSTS=["oido.example.org"], SECURE_SSL_REDIRECT=True, STATUS_TOKEN=TOKEN)
class ReadyTest(TestCase):
    def ready(self, **headers: str) -> tuple[int, dict]:
        answer = self.client.get("/ready/", headers=headers)
        self.assertEqual(answer["Cache-Control"], "no-store")
        return answer.status_code, json.loads(answer.content)

    def test_alive_asks_nothing(self) -> None:
        with self.assertNumQueries(0):
            answer = self.client.get("/health/")
        self.assertEqual((answer.status_code, answer.content), (200, b"alive\n"))

    def test_without_helpers_it_serves_and_says_that_something_is_wrong(self) -> None:
        status, now = self.ready()
        self.assertEqual((status, now["state"]), (200, "in trouble"), now)
        self.assertEqual(
            (now["well"]["database"], now["well"]["workers"], "words" in now), (True, False, False)
        )
        for kind in Helper.Kind.values:
            beat(kind)
        _, now = self.ready()
        self.assertEqual((now["well"]["workers"], now["well"]["schedulers"]), (True, True))

    def test_figures_are_for_who_brings_the_token(self) -> None:
        self.assertNotIn("words", self.ready(Authorization="Bearer another")[1])
        now = self.ready(Authorization=f"Bearer {TOKEN}")[1]
        self.assertEqual(now["words"]["database"], "answers")
        self.assertIn("OIDO_MAIL_HOST", now["words"]["mail"])
        with override_settings(STATUS_TOKEN=""):
            self.assertNotIn("words", self.ready(Authorization="Bearer ")[1])

    def test_figures_for_monitoring_are_for_who_brings_the_token(self) -> None:
        bearer = {"Authorization": f"Bearer {TOKEN}"}
        self.assertEqual(
            self.client.get("/metrics/", secure=True, headers={"Host": "oido.example.org"}).status_code, 404
        )
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        factories.take(student, given)
        Job.everywhere.create(kind="tidy", state=Job.State.FAILED)
        beat(Helper.Kind.WORKER)
        self.client.get("/sign-in/", secure=True, headers={"Host": "oido.example.org"})
        with within(Scope.UNNAMED):
            said = self.client.get("/metrics/", headers=bearer).content.decode()
        for line in (
            "oido_takes 1.0", 'oido_jobs{kind="tidy",state="failed"} 1.0', 'oido_helpers{kind="worker"} 1.0',
            'oido_helpers{kind="scheduler"} 0.0', 'django_http_requests_latency_seconds_by_view_method_count{method="GET",view="sign-in"}',
        ):  # fmt: skip
            self.assertIn(line, said)

    def test_without_a_database_it_is_not_ready_and_says_so_without_a_trace(self) -> None:
        with patch.object(state, "connection") as away, self.assertNoLogs("django.request"):
            away.cursor.side_effect = OperationalError(2002, "away")
            status, now = self.ready()
        self.assertEqual((status, now["state"], now["well"]["database"]), (503, "not ready", False))

    def test_what_waits_too_long_and_a_full_disk_are_seen(self) -> None:
        job = Job.everywhere.create(kind="take-exports", owner=factories.teacher())
        Job.everywhere.filter(pk=job.pk).update(made_at=timezone.now() - timedelta(minutes=11))
        self.assertFalse(self.ready()[1]["well"]["queue"])
        for free, expected in ((50_000_000, 503), (1_000_000_000, 200)):
            with patch.object(state.shutil, "disk_usage") as usage:
                usage.return_value.free = free
                status, now = self.ready()
            self.assertEqual((status, now["well"]["disk"]), (expected, False))

    def test_tables_that_are_behind_the_code_are_not_ready(self) -> None:
        with (
            patch.object(state, "_has_all_migrations", False),
            patch.object(state, "MigrationExecutor") as executor,
        ):
            executor.return_value.migration_plan.return_value = [("one", False)]
            status, now = self.ready()
        self.assertEqual((status, now["well"]["migrations"]), (503, False))


class DoctorTest(TestCase):
    def said(self) -> dict[str, str]:
        out = io.StringIO()
        # As a command is: in no school.
        with within(Scope.UNNAMED), self.assertRaisesMessage(CommandError, "not well"):
            call_command("doctor", stdout=out)
        return {line[9:].partition(":")[0]: line for line in out.getvalue().splitlines()}

    def test_each_thing_that_is_wrong_is_named_with_what_to_do(self) -> None:
        said = self.said()
        for name in ("database", "clock", "takes", "jobs", "letters", "assets"):
            self.assertEqual(said[name][:8], "well    ", said[name])
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        long_ago = timezone.now() - timedelta(hours=1)
        Take.objects.filter(pk=factories.take(student, given).pk).update(measure_after=long_ago)
        Job.everywhere.create(kind="tidy", state=Job.State.FAILED, ended_at=long_ago)
        Email.everywhere.create(school=teacher.school, to="a@example.org", state=Email.State.FAILED)
        with patch.object(state, "MAX_CLOCK_S", -1.0), override_settings(TYPEFACES=Path("/nowhere/fonts")):
            said = self.said()
        for name, words in (
            ("clock", "time server"), ("takes", "1 wait"), ("jobs", "1 × tidy"), ("letters", "Outbox"), ("assets", "./oido install"),
        ):  # fmt: skip
            self.assertIn("NOT WELL", said[name])
            self.assertIn(words, said[name])

    def test_without_a_database_that_is_all_it_says(self) -> None:
        with patch.object(state, "connection") as away:
            away.cursor.side_effect = OperationalError(2002, "away")
            self.assertEqual(set(self.said()), {"database", "disk", "mail"})


class HelpersTest(TestCase):
    def test_the_silent_do_not_count_and_are_forgotten(self) -> None:
        beat(Helper.Kind.WORKER)
        beat(Helper.Kind.WORKER)
        self.assertEqual((Helper.objects.count(), count_alive(Helper.Kind.WORKER)), (1, 1))
        Helper.objects.update(beat_at=timezone.now() - timedelta(minutes=2))
        self.assertEqual(count_alive(Helper.Kind.WORKER), 0)
        forget_ended()
        self.assertEqual(Helper.objects.count(), 1)
        Helper.objects.update(beat_at=timezone.now() - timedelta(days=2))
        forget_ended()
        self.assertEqual(Helper.objects.count(), 0)
        beat(Helper.Kind.WORKER)
        leave(Helper.Kind.WORKER)
        self.assertEqual(Helper.objects.count(), 0)


class QueueTest(TestCase):
    def test_what_was_done_long_ago_is_forgotten_and_what_waits_is_not(self) -> None:
        long_ago = timezone.now() - timedelta(days=3)
        for _ in range(3):
            measure_beside.enqueue("00000000-0000-0000-0000-000000000000")
        done, failed, waiting = DBTaskResult.objects.all()
        DBTaskResult.objects.filter(pk=done.pk).update(status="SUCCESSFUL", finished_at=long_ago)
        DBTaskResult.objects.filter(pk=failed.pk).update(status="FAILED", finished_at=long_ago)
        DBTaskResult.objects.filter(pk=waiting.pk).update(enqueued_at=long_ago)
        forget_done_tasks()
        self.assertEqual([task.pk for task in DBTaskResult.objects.all()], [waiting.pk])


class ScheduleTest(TransactionTestCase):
    """Each thread has a connection of its own, as each machine has."""

    def test_of_two_one_leads_and_the_other_takes_over_when_it_is_gone(self) -> None:
        first, second = Schedule(), Schedule()
        first.turn()
        self.assertTrue(first.is_leading)

        def other() -> None:
            try:
                second.turn()
                led.append(second.is_leading)
            finally:
                connection.close()

        led: list[bool] = []
        for _ in range(2):
            thread = factories.thread(target=other)
            thread.start()
            thread.join()
            # The lock goes with the connection, however it ends.
            connection.close()
        self.assertEqual(led, [False, True])

    def test_a_leader_whose_connection_broke_stands_back_if_another_leads(self) -> None:
        first, second = Schedule(), Schedule()
        first.turn()
        connection.close()
        gate: list[bool] = []

        def other() -> None:
            try:
                second.turn()
                # While it leads, the first one looks again, on a new connection.
                thread = factories.thread(target=again)
                thread.start()
                thread.join()
            finally:
                connection.close()

        def again() -> None:
            try:
                first.turn()
                gate.append(first.is_leading)
            finally:
                connection.close()

        thread = factories.thread(target=other)
        thread.start()
        thread.join()
        self.assertEqual((second.is_leading, gate), (True, [False]))
