"""The background: asked for once, done once, taken up where a worker was stopped."""

import json
import threading
import time
from datetime import datetime, timedelta
from unittest.mock import patch

from django.core.management import call_command
from django.db import connection, transaction
from django.test import TestCase, TransactionTestCase
from django.test.utils import CaptureQueriesContext
from django.utils import timezone

from oido.common.permissions import NotAllowed
from oido.jobs import services
from oido.jobs.kinds import KINDS, JobKind, JobProblem, MadeFile
from oido.jobs.models import Job
from oido.jobs.schedule import begin_daily, begin_each_minute
from oido.marking.hand_in import Submission, hand_in, hand_in_together
from oido.takes import judging
from oido.takes.choosing import delete_take
from oido.takes.models import Take
from oido.takes.services import receive_pass, receive_take
from tests.ear.parts import melody
from tests.oido import factories
from tests.oido.clients import DeskClient

State = Job.State


def kind(name: str, run, *, tries: int = 3):
    """A kind of job for one test."""
    return patch.dict(KINDS, {name: JobKind(name=name, run=run, tries=tries)})


class JobTest(TestCase):
    client_class = DeskClient

    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.client.force_login(self.teacher)

    def test_asked_for_twice_it_is_one_until_it_is_over(self) -> None:
        with kind("test", lambda progress, n: MadeFile(b"%d" % n, "n.txt", "text/plain")):
            first = services.ask_for("test", owner=self.teacher, key="a", n=5)
            self.assertEqual(services.ask_for("test", owner=self.teacher, key="a", n=5), first)
            self.assertNotEqual(services.ask_for("test", owner=factories.teacher(), key="a", n=5), first)
            factories.work_all()
            self.assertEqual(self.client.get(f"/jobs/{first.pk}/file/").content, b"5")
            self.assertNotEqual(services.ask_for("test", owner=self.teacher, key="a", n=5), first)

    def test_its_page_says_how_far_it_is_and_is_its_owners_alone(self) -> None:
        job = services.ask_for("test", owner=self.teacher, title="A tune, to print", back="/exercises/")
        url = f"/jobs/{job.pk}/"
        self.assertContains(self.client.get(url), "Waiting for its turn")
        self.assertEqual(self.client.get(f"{url}file/").status_code, 404)

        def look(progress) -> None:
            progress(3, 4)
            self.assertContains(self.client.get(url, headers={"HX-Request": "true"}), 'value="75"')

        with kind("test", look):
            factories.work_all()
        self.assertContains(self.client.get(url), "Go on")
        for other in (factories.teacher(), factories.student()):
            self.client.force_login(other)
            self.assertEqual(self.client.get(url).status_code, 404)

    def test_what_fails_is_tried_again_and_then_said(self) -> None:
        def fail(progress) -> None:
            raise ZeroDivisionError

        job = services.ask_for("test", owner=self.teacher)
        with kind("test", fail, tries=2), self.assertLogs("oido.jobs.services", level="ERROR"):
            factories.work_all()
            job.refresh_from_db()
            self.assertEqual((job.state, job.tries), (State.WAITING, 1))
            factories.work_all()
        job.refresh_from_db()
        self.assertEqual((job.state, job.tries), (State.FAILED, 2))
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "could not be created")

    def test_a_reason_is_told_at_once(self) -> None:
        def refuse(progress) -> None:
            raise JobProblem("a sound file lasts up to 15 minutes")

        job = services.ask_for("test", owner=self.teacher)
        with kind("test", refuse):
            factories.work_all()
        self.assertContains(self.client.get(f"/jobs/{job.pk}/"), "up to 15 minutes")

    def test_a_job_that_needs_too_much_time_or_memory_is_stopped_and_says_so(self) -> None:
        def run_on(progress) -> None:
            while True:
                time.sleep(0.01)

        def fill_memory(progress) -> None:
            raise MemoryError

        for run, sentence in (
            (run_on, "longer than a minute"),
            (fill_memory, "too large to do in one go"),
        ):
            job = services.ask_for("test", owner=self.teacher)
            limited = {"test": JobKind(name="test", run=run, max_s=0.05)}
            with patch.dict(KINDS, limited), self.assertLogs("oido.jobs.services", level="WARNING"):
                factories.work_all()
            job.refresh_from_db()
            self.assertEqual((job.state, job.tries), (State.FAILED, 1))
            self.assertContains(self.client.get(f"/jobs/{job.pk}/"), sentence)

    def test_a_stopped_workers_job_goes_on(self) -> None:
        old = timezone.now() - timedelta(minutes=5)
        stopped = Job.objects.create(kind="test", state=State.RUNNING, tries=1, beat_at=old)
        alive = Job.objects.create(kind="test", state=State.RUNNING, tries=1, beat_at=timezone.now())
        worn_out = Job.objects.create(kind="test", state=State.RUNNING, tries=3, beat_at=old)
        lost = Job.objects.create(kind="test")
        Job.objects.filter(pk=lost.pk).update(made_at=old)
        # Its second try never reached the queue.
        cut_off = Job.objects.create(kind="test", tries=1, beat_at=old)
        with kind("test", lambda progress: None):
            self.assertEqual(services.take_up_stopped(), 3)
            self.assertEqual(services.take_up_stopped(), 0)
            factories.work_all()
        states = [Job.objects.get(pk=job.pk).state for job in (stopped, alive, worn_out, lost, cut_off)]
        self.assertEqual(states, [State.DONE, State.RUNNING, State.FAILED, State.DONE, State.DONE])

    def test_what_is_done_daily_is_asked_for_again_after_a_day(self) -> None:
        with kind("test", lambda progress: None), patch("oido.jobs.schedule.DAILY", ["test"]):
            self.assertEqual(begin_daily(), 1)
            factories.work_all()
            self.assertEqual(begin_daily(), 0)
            Job.everywhere.update(made_at=timezone.now() - timedelta(hours=25))
            self.assertEqual(begin_daily(), 1)

    def test_what_was_made_is_kept_for_a_day(self) -> None:
        job = services.ask_for("test")
        with kind("test", lambda progress: None):
            factories.work_all()
        self.assertEqual(services.forget_old(), 0)
        Job.objects.filter(pk=job.pk).update(ended_at=timezone.now() - timedelta(days=2))
        self.assertEqual(services.forget_old(), 1)


class WorkerTest(TransactionTestCase):
    client_class = DeskClient

    def test_a_worker_does_what_is_in_the_queue(self) -> None:
        done: list[int] = []
        with kind("test", lambda progress, n: done.append(n)):
            for n in range(3):
                services.ask_for("test", n=n)
            call_command("db_worker", batch=True, startup_delay=False, reload=False, verbosity=0)
        self.assertEqual(sorted(done), [0, 1, 2])

    def test_whoever_asks_at_the_same_time_waits_and_gets_the_same_job(self) -> None:
        teacher = factories.teacher()
        has_asked, is_answered = threading.Event(), threading.Event()
        asked: list[Job] = []

        def ask_first() -> None:
            with transaction.atomic():
                asked.append(services.ask_for("test", owner=teacher, key="a"))
                has_asked.set()
                is_answered.wait(0.5)
            connection.close()

        first = factories.thread(target=ask_first)
        first.start()
        self.assertTrue(has_asked.wait(10))
        asked.append(services.ask_for("test", owner=teacher, key="a"))
        is_answered.set()
        first.join()
        self.assertEqual(asked[0], asked[1])

    def test_a_long_job_gives_signs_of_life(self) -> None:
        job = services.ask_for("test")
        seen: set[datetime] = set()

        def work(progress) -> None:
            deadline = time.monotonic() + 10
            while len(seen) < 3 and time.monotonic() < deadline:
                seen.add(Job.everywhere.get(pk=job.pk).beat_at)

        with kind("test", work), patch.object(services, "BEAT_S", 0.01):
            services.do(str(job.pk))
        self.assertEqual(len(seen), 3)

    def test_two_workers_do_a_job_once(self) -> None:
        ran: list[int] = []
        gate = threading.Barrier(2)
        job = services.ask_for("test")

        def work() -> None:
            gate.wait()
            services.do(str(job.pk))
            connection.close()

        with kind("test", lambda progress: ran.append(1)):
            threads = [factories.thread(target=work) for _ in range(2)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(ran, [1])


class ReceivingTest(TransactionTestCase):
    client_class = DeskClient

    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.students = [factories.student(), factories.student()]
        self.given = factories.assignment(
            factories.exercise(self.teacher),
            factories.school_class(teachers=[self.teacher], students=self.students),
        )

    def test_a_take_that_is_being_measured_holds_up_nobody(self) -> None:
        """Not a class-mate's, and not another one of the same student."""
        is_measuring, may_go_on = threading.Event(), threading.Event()
        real = judging.measured

        def slow(take: Take, **more):
            if take.student_id == self.students[0].pk and not is_measuring.is_set():
                is_measuring.set()
                may_go_on.wait(20)
            return real(take, **more)

        def record() -> None:
            factories.take(self.students[0], self.given)
            connection.close()

        with patch("oido.takes.services.measured", slow):
            thread = factories.thread(target=record)
            thread.start()
            self.assertTrue(is_measuring.wait(20))
            with connection.cursor() as cursor:
                cursor.execute("SET innodb_lock_wait_timeout = 2")
            of_class_mate = factories.take(self.students[1], self.given)
            of_same = factories.take(self.students[0], self.given)
            may_go_on.set()
            thread.join()
        self.assertEqual((of_class_mate.number, of_same.number), (1, 2))
        self.assertTrue(all(take.judgement_id for take in Take.objects.all()))

    def test_takes_that_are_handed_in_together_are_measured_before_any_is_locked(self) -> None:
        second = factories.assignment(factories.exercise(self.teacher), self.given.school_class)
        takes = [factories.take(self.students[0], given) for given in (self.given, second)]
        locked_while_measuring: list[bool] = []
        real = judging.measured

        def looks(take: Take, **more):
            locked_while_measuring.append(connection.in_atomic_block)
            return real(take, **more)

        with patch("oido.marking.hand_in.measured", looks):
            hand_in_together(self.students[0], [Submission(takes=(take,)) for take in takes])
        self.assertEqual(locked_while_measuring, [False, False])
        self.assertEqual(Take.objects.filter(handed_in_at__isnull=False).count(), 2)
        # One that cannot be handed in keeps the others back.
        takes = [factories.take(self.students[1], given) for given in (self.given, second)]
        delete_take(self.students[1], takes[1])
        self.assertRaises(
            NotAllowed, hand_in_together, self.students[1], [Submission(takes=(take,)) for take in takes]
        )
        self.assertFalse(Take.objects.filter(student=self.students[1], handed_in_at__isnull=False).exists())

    def test_a_take_whose_process_died_before_it_was_measured_is_measured(self) -> None:
        """By whoever sends it again, and by a worker; what is laid over it, and turned, likewise."""
        factories.allow(self.given, passes=3)
        student, new = self.students[0], factories.new_take(self.given)
        with patch("oido.takes.services.measured", side_effect=SystemExit), self.assertRaises(SystemExit):
            receive_take(student, self.given, new)
        self.assertIsNone(Take.objects.get().judgement)
        self.assertEqual(receive_take(student, self.given, new).judgement, Take.objects.get().judgement)
        self.assertIsNotNone(Take.objects.get().judgement)
        laid = factories.new_pass()
        with patch("oido.takes.services.measured", side_effect=SystemExit), self.assertRaises(SystemExit):
            receive_pass(student, Take.objects.get(), laid)
        begin_each_minute()
        self.assertFalse(Job.objects.filter(kind="marking.measure_waiting").exists(), "its sender still may")
        Take.objects.update(measure_after=timezone.now() - timedelta(minutes=1))
        begin_each_minute()
        factories.work_all()
        take = Take.objects.get()
        self.assertEqual((take.measure_after, take.measurements.count()), (None, 1))
        self.assertEqual(judging.judged(take).facts.take.notes, len(take.read().notes))

    def test_a_long_take_is_measured_in_the_background_and_handed_in_as_it_is(self) -> None:
        given = factories.assignment(
            factories.exercise(self.teacher, melody(bars=151)), self.given.school_class
        )
        with patch("oido.takes.services.measured", side_effect=AssertionError("not while somebody waits")):
            take = factories.take(self.students[0], given)
        self.client.force_login(self.students[0])
        self.assertContains(self.client.get(f"/stand/{given.pk}/"), "Listening …")
        self.assertRaises(NotAllowed, hand_in, self.students[0], take)
        factories.work_all()
        take.refresh_from_db()
        self.assertEqual(judging.judged(take).facts.counts.matched, 604)
        with patch("oido.marking.hand_in.measured", side_effect=AssertionError("known already")):
            hand_in(self.students[0], take)
        # What is compared with the class comes afterwards.
        before = take.judgement
        factories.work_all()
        take.refresh_from_db()
        self.assertNotEqual(take.judgement, before)
        settings = {"place": "b3", "said": "again", "bar": "3"}
        self.client.force_login(self.teacher)
        asked = self.client.post(f"/takes/{take.pk}/say/", settings)
        self.assertIn("/jobs/", asked.url)
        factories.work_all()
        self.assertEqual(Take.objects.get(pk=take.pk).set_for_it.again, (3,))
        loop = {"first_bar": 1, "last_bar": 151, "bpm": 90, "fifths": 0, "latency_ms": 0, "source": "midi"}
        self.client.force_login(self.students[0])
        events = [[500.0 * n, 0x90, 60, 80] for n in range(700)]
        body = json.dumps({**loop, "events": events})
        answer = self.client.post(f"/stand/{given.pk}/loops/", body, content_type="application/json")
        self.assertContains(answer, "Choose fewer bars", status_code=422)

    def test_a_take_that_cannot_be_measured_holds_up_no_other(self) -> None:
        bad, good = (factories.take(student, self.given) for student in self.students)
        Take.objects.update(measure_after=timezone.now() - timedelta(minutes=1))
        real = judging.measured

        def fails(take: Take, **more):
            if take.pk == bad.pk:
                raise ZeroDivisionError
            return real(take, **more)

        with patch("oido.takes.services.measured", fails), self.assertLogs("oido.marking", level="ERROR"):
            begin_each_minute()
            factories.work_all()
        self.assertIsNone(Take.objects.get(pk=good.pk).measure_after)
        self.assertGreater(Take.objects.get(pk=bad.pk).measure_after, timezone.now())

    def test_a_pass_laid_while_the_take_was_measured_counts(self) -> None:
        factories.allow(self.given, passes=3)
        take = factories.take(self.students[0], self.given)
        real, laid = judging.measured, []

        def lays_another(one: Take, **more):
            facts = real(one, **more)
            if not laid:
                laid.append(1)
                receive_pass(self.students[0], take, factories.new_pass())
            return facts

        with patch("oido.takes.services.measured", lays_another):
            receive_pass(self.students[0], take, factories.new_pass())
        take.refresh_from_db()
        played = judging.judged(take).facts.take.notes
        self.assertEqual(played, len(take.read().notes))

    def test_handing_in_reads_no_events_of_class_mates(self) -> None:
        factories.handed_in(self.students[0], self.given)
        take = factories.take(self.students[1], self.given)
        with CaptureQueriesContext(
            connection,
        ) as queries:
            hand_in(self.students[1], take)
        of_others = [
            q["sql"]
            for q in queries
            if "`student_id` = " + str(self.students[0].pk) in q["sql"]
            or "NOT (`takes_take`.`student_id`" in q["sql"]
        ]
        self.assertTrue(of_others)
        self.assertFalse([sql for sql in of_others if "`events`" in sql.split(" FROM ")[0]])
