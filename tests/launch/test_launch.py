"""The launcher: what is in the way is said in one line."""

import io
import json
import signal
import socket
import subprocess
import sys
import tempfile
from contextlib import redirect_stderr, redirect_stdout
from email.message import Message
from itertools import pairwise
from pathlib import Path
from threading import Event, Thread
from unittest import TestCase
from unittest.mock import MagicMock, Mock, patch
from urllib.error import HTTPError, URLError
from urllib.request import urlopen

from launch import commands, install, leftovers, say, trying
from launch.database import Database, free_port, is_port_taken
from launch.places import digest, is_done, mark_done
from launch.processes import wait_until_ready
from launch.progress import counted_share, debian_share, migrations_share, static_share
from launch.say import GiveUp
from launch.supervising import LONGEST_DELAY_S, STEADY_S, Kept, answer_unavailable, listen


class CommandsTest(TestCase):
    def run_main(self, *arguments: str) -> tuple[int, str]:
        err = io.StringIO()
        with redirect_stderr(err), redirect_stdout(io.StringIO()):
            code = commands.main(list(arguments))
        return code, err.getvalue()

    def test_a_busy_port_is_named_with_the_way_out(self) -> None:
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            port = other.getsockname()[1]
            self.assertTrue(is_port_taken(port))
            # Whatever runs in this checkout beside the tests.
            with patch.dict("os.environ", {"OIDO_PORT": str(port)}), patch("launch.starting.stop_leftovers"):
                code, said = self.run_main("start")
        self.assertEqual(code, 1)
        self.assertEqual(said.count("\n"), 1)
        self.assertIn(f"port {port} is taken", said)
        self.assertIn(f"OIDO_PORT={port + 1}", said)

    def test_a_port_that_is_no_number(self) -> None:
        with patch.dict("os.environ", {"OIDO_PORT": "eighty"}):
            self.assertIn("OIDO_PORT", self.run_main("start")[1])

    def test_unknown_commands_and_help(self) -> None:
        code, said = self.run_main("sing")
        self.assertEqual(code, 2)
        self.assertIn("'sing'", said)
        self.assertEqual(self.run_main("help")[0], 0)


class InstallTest(TestCase):
    def test_missing_packages_without_apt_are_named(self) -> None:
        with patch("shutil.which", return_value=None), self.assertRaises(GiveUp) as caught:
            install.debian_packages({"a-package": "/nowhere/a-file"})
        self.assertIn("apt-get install a-package", str(caught.exception))

    def test_a_failing_step_says_its_last_lines(self) -> None:
        with self.assertRaises(GiveUp) as caught:
            install.run(["sh", "-c", "echo the reason; exit 3"], log="test-failing")
        self.assertIn("the reason", str(caught.exception))

    def test_stamps_tell_a_change(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            file, stamp = Path(folder) / "lock", Path(folder) / "deep" / "stamp"
            file.write_text("one")
            mark_done(stamp, digest(file))
            self.assertTrue(is_done(stamp, digest(file)))
            file.write_text("two")
            self.assertFalse(is_done(stamp, digest(file)))


class AloneTest(TestCase):
    def commands(self, *labels: str) -> list[list[str]] | None:
        done = Mock(returncode=0)
        with (
            patch("launch.trying.subprocess.run", return_value=done) as run,
            patch("launch.trying.install") as installing,
        ):
            alone = trying._alone(labels)
            self.installed = [call[0] for call in installing.method_calls]
        return None if alone is None else [call.args[0] for call in run.call_args_list]

    def test_tests_that_need_little_wait_for_little(self) -> None:
        [scripts] = self.commands("tests.scripts") or []
        self.assertEqual((scripts[0], self.installed), ("node", []))
        [house] = self.commands("tests.ear.test_layers") or []
        self.assertEqual((house[0], self.installed), (sys.executable, []))
        self.commands("tests.ear.test_notes")
        self.assertEqual(self.installed, ["virtualenv"])
        self.assertEqual(len(self.commands("tests.scripts", "tests.ear") or []), 2)
        for others in ((), ("tests.oido",), ("tests.ear", "tests.browser.test_stand"), ("tests.earth",)):
            self.assertIsNone(self.commands(*others), others)

    def test_packages_are_tried_twice_and_wait_for_the_lock(self) -> None:
        fails_once = Mock(side_effect=[GiveUp("mirror"), None, None])
        with (
            patch("launch.install.run", fails_once), patch("launch.install.shutil.which", return_value="/usr/bin/apt-get"),
            patch("launch.install._python_parts", return_value=[]), redirect_stdout(io.StringIO()),
        ):  # fmt: skip
            install.debian_packages({"a-package": "/nowhere/a-file"})
        commands = [" ".join(call.args[0]) for call in fails_once.call_args_list]
        self.assertEqual([" update" in one for one in commands], [True, True, False])
        self.assertTrue(all("DPkg::Lock::Timeout=" in one for one in commands))


class WaitingTest(TestCase):
    def test_it_waits_as_long_as_the_server_lives_and_says_so(self) -> None:
        clock = iter(range(0, 10_000, 4))
        server = Mock(poll=Mock(return_value=None))
        answers = [URLError("refused")] * 40 + [MagicMock()]
        said = io.StringIO()
        with (
            patch("launch.say.time", Mock(monotonic=lambda: next(clock))),
            patch("launch.processes.urllib.request.urlopen", side_effect=answers),
            redirect_stdout(said),
        ):
            wait_until_ready(server, 1)
        self.assertIn("the server is starting: 152 s so far …", said.getvalue())
        self.assertLessEqual(len(said.getvalue().splitlines()), 16)

    def test_a_server_that_ends_or_answers_with_an_error_is_not_awaited(self) -> None:
        broken = HTTPError("", 500, "", Message(), None)
        for returncode, answers, told in (
            (1, [URLError("refused")], "stopped at once"),
            (None, [broken], "error 500"),
        ):
            with (
                self.subTest(told),
                patch("launch.processes.urllib.request.urlopen", side_effect=answers),
                self.assertRaisesRegex(GiveUp, told),
            ):
                wait_until_ready(Mock(poll=Mock(return_value=returncode)), 1)


class DatabaseTest(TestCase):
    def test_two_installations_share_no_folder_for_temporary_tables(self) -> None:
        folders = []
        for _ in range(2):
            with tempfile.TemporaryDirectory() as folder:
                database = Database(folder=Path(folder), port=free_port())
                database._write_configuration()
                configuration = (Path(folder) / "my.cnf").read_text()
                self.assertTrue(database.temporary.is_dir())
                self.assertIn(f"tmpdir={database.temporary}\n", configuration)
                folders.append(database.temporary)
        self.assertNotEqual(*folders)

    def test_a_database_that_cannot_start_points_to_its_log(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            database = Database(folder=Path(folder), port=free_port())
            (database.data / "mysql").mkdir(parents=True)
            (database.data / "ibdata1").write_bytes(b"no tablespace")
            with self.assertRaises(GiveUp) as caught:
                database.start()
            self.assertIn("mariadbd.log", str(caught.exception))
            self.assertIsNotNone(database.process and database.process.poll())


class LeftoversTest(TestCase):
    """What a launcher leaves that was killed."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.left = subprocess.Popen(["sleep", "60"], start_new_session=True)
        self.addCleanup(lambda: (self.left.kill(), self.left.wait()))

    def record(self, launcher: int) -> None:
        with patch("launch.leftovers.os.getpid", return_value=launcher):
            leftovers.record_running(self.folder, {"the server": self.left.pid})

    def test_what_runs_on_without_its_launcher_is_ended(self) -> None:
        launcher = subprocess.Popen(["sleep", "60"])
        self.record(launcher.pid)
        launcher.kill()
        launcher.wait()
        said = io.StringIO()
        with redirect_stdout(said):
            leftovers.stop_leftovers(self.folder)
        self.assertEqual(self.left.wait(5), -signal.SIGTERM)
        self.assertIn("the server", said.getvalue())
        # Nothing is left to be stopped.
        with redirect_stdout(said):
            leftovers.stop_leftovers(self.folder)

    def test_a_start_that_is_still_at_work_is_left_alone(self) -> None:
        leftovers.record_running(self.folder, {"the server": self.left.pid})
        with self.assertRaisesRegex(GiveUp, "already running"):
            leftovers.stop_leftovers(self.folder)
        self.assertIsNone(self.left.poll())

    def test_a_later_process_with_the_same_number_is_another(self) -> None:
        record = {"launcher": [999_999_999, 1], "the server": [self.left.pid, 1]}
        (self.folder / leftovers.RECORD).write_text(json.dumps(record))
        leftovers.stop_leftovers(self.folder)
        self.assertIsNone(self.left.poll())


class KeptTest(TestCase):
    def setUp(self) -> None:
        self.now = 0.0
        self.said = self.enterContext(redirect_stderr(io.StringIO()))

    def kept(self, begin) -> Kept:
        return Kept(name="a worker", begin=begin, clock=lambda: self.now)

    def test_what_ends_is_started_again_with_a_growing_delay(self) -> None:
        begun = []

        def begin() -> Mock:
            begun.append(self.now)
            return Mock(poll=Mock(return_value=1))

        worker = self.kept(begin)
        worker.start()
        while self.now < 200:
            self.now += 0.5
            worker.look()
        gaps = [later - earlier for earlier, later in pairwise(begun)]
        self.assertEqual([round(gap) for gap in gaps[:6]], [2, 2, 4, 8, 16, 32])
        self.assertLessEqual(max(gaps), LONGEST_DELAY_S + 1)
        self.assertIn("a worker stopped; it is started again in 1 s", self.said.getvalue())

    def test_one_that_was_up_for_long_begins_with_the_first_delay(self) -> None:
        worker = self.kept(lambda: Mock(poll=Mock(return_value=1)))
        worker.delay_s = 32.0
        worker.start()
        self.now = STEADY_S + 1
        worker.look()
        self.assertEqual(worker.due_at, self.now + 1.0)

    def test_one_that_cannot_be_started_is_tried_again(self) -> None:
        begin = Mock(
            side_effect=[Mock(poll=Mock(return_value=1)), GiveUp("no"), Mock(poll=Mock(return_value=None))]
        )
        worker = self.kept(begin)
        worker.start()
        while not worker.is_up:
            self.now += 1
            worker.look()
        self.assertEqual(begin.call_count, 3)

    def test_while_no_server_runs_pages_say_when_to_ask_again(self) -> None:
        listener = listen(0)
        self.addCleanup(listener.close)
        answering = Thread(target=answer_unavailable, args=(listener, 2.0))
        answering.start()
        with self.assertRaises(HTTPError) as answered:
            urlopen(f"http://127.0.0.1:{listener.getsockname()[1]}/", timeout=5)
        answering.join()
        self.assertEqual((answered.exception.code, answered.exception.headers["Retry-After"]), (503, "5"))


class ProgressTest(TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.log = self.folder / "log"

    def test_a_long_step_tells_how_much_is_done_and_how_long_the_rest_takes(self) -> None:
        said = io.StringIO()
        told = Event()

        def share() -> float:
            if "25%" in said.getvalue():
                told.set()
            return 0.25

        with redirect_stdout(said), patch.object(say, "TELL_EVERY_S", 0.02), say.step("demo school", share):
            self.assertTrue(told.wait(10))
        self.assertRegex(said.getvalue(), r"^  demo school … 25%, about 0 s left ….* 0 s\n$")

    def test_nothing_is_told_before_something_is_done(self) -> None:
        for share in (counted_share(self.log), debian_share(self.log), static_share(self.folder)):
            self.assertEqual(share(), 0.0)

    def test_shares_are_read_from_what_a_step_has_written(self) -> None:
        self.log.write_text("1 of 12\n3 of 12\n")
        self.assertEqual(counted_share(self.log)(), 0.25)
        self.log.write_text("dlstatus:1:50.0000:Retrieving\n")
        self.assertEqual(debian_share(self.log)(), 0.25)
        self.log.write_text("dlstatus:1:100:Retrieving\npmstatus:fluidsynth:50.0:Unpacking\n")
        self.assertEqual(debian_share(self.log)(), 0.75)
        migrations = [Path("oido/takes/migrations") / f"{name}.py" for name in ("__init__", "0001", "0002")]
        self.log.write_text("  Applying auth.0001_initial... OK\n  Applying takes.0001... OK\n")
        self.assertEqual(migrations_share(self.log, migrations)(), 0.5)
        self.log.unlink()
        for name in ("a.css", "a.0123456789ab.css", "a.css.gz"):
            (self.folder / name).touch()
        self.assertEqual(static_share(self.folder)(), 2 / 5)
