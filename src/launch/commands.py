"""What `./oido` can be told to do."""

import os
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from launch import install
from launch.database import Database, free_port, is_port_taken
from launch.places import ASSETS, BUILD, DATA, PYTHON, ROOT, digest, is_done, mark_done
from launch.say import GiveUp, complain, say, step

DEFAULT_PORT = 8000
DEFAULT_DB_PORT = 33306
READY_SECONDS = 30
WORKERS, THREADS = 2, 4
BACKGROUND_WORKERS = 2
COLLECT_STATIC = ["collectstatic", "--no-input", "--verbosity=0", "--ignore=ext"]
"""Without extensions of htmx that nothing here uses."""

HELP = """Usage: ./oido COMMAND

  start     install what is missing and serve Oido with its demo school
  test      run every test (a label such as tests.ear runs a part; --coverage tells how much they reach)
  check     lint, format, types, templates, migrations
  measure   measure a take against a target part, both Standard MIDI Files
  bench     score the matching against labelled takes; `bench marks` prints the scale of marks, `bench editing` times the Bench,
            `bench recording` and `bench latency` the Stand in a browser, `bench report` reports and marking,
            `bench mutants` puts small faults into the code and counts those that the tests notice
  shots     take the screenshots in docs/screenshots from the demo data
"""


SCRIPT_TESTS = "tests.scripts"
COVERAGE = "--coverage"
STAND_BENCHES = ("recording", "latency")


def _number_from_environment(name: str, default: int) -> int:
    value = os.environ.get(name, "")
    if value and not value.isdigit():
        raise GiveUp(f"{name} must be a port number, not {value!r}")
    return int(value) if value else default


def _secret_key() -> str:
    file = DATA / "secret-key"
    if not file.exists():
        DATA.mkdir(parents=True, exist_ok=True)
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(48))
    return file.read_text()


def _environment(database: Database, **more: str) -> dict[str, str]:
    return {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "oido.config.settings",
        "OPENBLAS_NUM_THREADS": "1",
        "OIDO_SECRET_KEY": _secret_key(),
        **database.environment(),
        **more,
    }


def _manage(arguments: Sequence[str], env: dict[str, str], *, quiet: bool = False) -> None:
    done = subprocess.run(
        [str(PYTHON), str(ROOT / "src" / "manage.py"), *arguments],
        env=env, cwd=ROOT, check=False, text=True,
        stdout=subprocess.PIPE if quiet else None, stderr=subprocess.STDOUT if quiet else None,
    )  # fmt: skip
    if done.returncode:
        raise GiveUp(f"`manage.py {arguments[0]}` failed:\n{done.stdout or ''}".rstrip())


def start(arguments: Sequence[str]) -> int:
    """Install, start database and server, wait until both serve, stop both on Ctrl-C."""
    port = _number_from_environment("OIDO_PORT", DEFAULT_PORT)
    if is_port_taken(port):
        raise GiveUp(
            f"port {port} is taken; stop what uses it, or choose another: OIDO_PORT={port + 1} ./oido start"
        )
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    install.node_libraries()
    install.assets()
    database = Database(folder=DATA, port=_number_from_environment("OIDO_DB_PORT", DEFAULT_DB_PORT))
    # SIGINT too: a shell that starts Oido in the background has it ignored.
    signal.signal(signal.SIGTERM, _interrupt)
    signal.signal(signal.SIGINT, _interrupt)
    server, workers = None, []
    try:
        database.start()
        env = _environment(database, OIDO_DEMO="yes")
        _prepare(env)
        server = _serve(port, env)
        workers += [_work(env) for _ in range(BACKGROUND_WORKERS)]
        _wait_until_ready(server, port)
        _welcome(port, env)
        return _watch(server, workers, database, env)
    except KeyboardInterrupt:
        say("\nStopping …")
        return 0
    finally:
        # A second Ctrl-C must not leave the database running.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in (server, *workers):
            if process is not None:
                _end(process)
        database.stop()


def _work(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """A worker for what is done in the background, beside the server."""
    return subprocess.Popen([str(PYTHON), "src/manage.py", "work"], env=env, cwd=ROOT, start_new_session=True)


def _serve(port: int, env: dict[str, str]) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [
            str(PYTHON), "-m", "gunicorn", "oido.config.wsgi", f"--bind=127.0.0.1:{port}",
            f"--workers={WORKERS}", f"--threads={THREADS}", "--log-level=warning", "--preload",
        ],
        env=env, cwd=ROOT, start_new_session=True,
    )  # fmt: skip


def _end(server: subprocess.Popen[bytes]) -> None:
    if server.poll() is None:
        server.terminate()
        try:
            server.wait(10)
        except subprocess.TimeoutExpired:
            server.kill()


def _interrupt(_signal: int, _frame: Any) -> None:
    raise KeyboardInterrupt


def _prepare(env: dict[str, str]) -> None:
    """Migrate, gather static files and load the demo school, each only when there is need."""
    migrations = sorted((ROOT / "src" / "oido").glob("*/migrations/*.py"))
    state = digest(*migrations)
    stamp = DATA / "migrated"
    if not is_done(stamp, state):
        with step("tables"):
            _manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
        mark_done(stamp, state)
    static = sorted(p for p in (ROOT / "src" / "oido").glob("*/static/**/*") if p.is_file())
    state = digest(ASSETS / ".ready", *static)
    stamp = BUILD / "static" / ".gathered"
    if not is_done(stamp, state):
        with step("static files"):
            shutil.rmtree(BUILD / "static", ignore_errors=True)
            _manage(COLLECT_STATIC, env, quiet=True)
        mark_done(stamp, state)
    stamp = DATA / "demo-loaded"
    if not stamp.exists():
        with step("demo school"):
            _manage(["load_demo"], env, quiet=True)
        mark_done(stamp, "1")


def _wait_until_ready(server: subprocess.Popen[bytes], port: int) -> None:
    deadline = time.monotonic() + READY_SECONDS
    while time.monotonic() < deadline:
        if server.poll() is not None:
            raise GiveUp("the server stopped at once; what it printed above says why")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=2):
                return
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    raise GiveUp(f"the server did not answer on port {port} within {READY_SECONDS} s")


def _welcome(port: int, env: dict[str, str]) -> None:
    say(f"\nOido is ready: http://127.0.0.1:{port}\n")
    from oido.demo.accounts import ACCOUNTS, PASSWORD  # plain data, no Django

    for account in ACCOUNTS:
        say(f"  {account.role:8} {account.username:8} {account.about}")
    say(f"  password of all demo accounts: {PASSWORD}\n\nCtrl-C stops Oido and its database.")


def _watch(
    server: subprocess.Popen[bytes],
    workers: list[subprocess.Popen[bytes]],
    database: Database,
    env: dict[str, str],
) -> int:
    while True:
        for k, worker in enumerate(workers):
            if worker.poll() is not None:
                # What it was at goes on in another.
                complain("a background worker stopped; another one is started")
                workers[k] = _work(env)
                time.sleep(1.0)
        if server.poll() is not None:
            complain("the server stopped; start again with ./oido start")
            return 1
        if database.process is not None and database.process.poll() is not None:
            complain(f"the database stopped; see {database.data / 'mariadbd.log'}, then ./oido start")
            return 1
        time.sleep(0.5)


def _throwaway_database() -> Database:
    memory = Path("/dev/shm")
    parent = memory if memory.is_dir() and os.access(memory, os.W_OK) else Path(tempfile.gettempdir())
    folder = Path(tempfile.mkdtemp(prefix="oido-", dir=parent))
    return Database(folder=folder, port=free_port(), is_throwaway=True)


def _install_all() -> None:
    install.debian_packages(install.SERVE_PACKAGES | install.TEST_PACKAGES)
    install.virtualenv(with_dev=True)
    install.node_libraries()
    install.assets()


def _with_throwaway_database(work: Callable[[dict[str, str]], int]) -> int:
    database = _throwaway_database()
    signal.signal(signal.SIGTERM, _interrupt)
    try:
        database.start()
        return work(_environment(database))
    finally:
        database.stop()
        shutil.rmtree(database.folder, ignore_errors=True)


def _script_tests() -> list[str]:
    names = sorted(str(one) for one in (ROOT / "tests" / "scripts").glob("*.test.js"))
    return ["node", "--import", "./tests/scripts/register.js", "--test", "--test-reporter=dot", *names]


def test(arguments: Sequence[str]) -> int:
    _install_all()

    def work(env: dict[str, str]) -> int:
        env |= {
            "DJANGO_SETTINGS_MODULE": "oido.config.settings_test",
            "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
            "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
        }
        if SCRIPT_TESTS in arguments or not set(arguments) - {COVERAGE}:
            scripts = subprocess.run(_script_tests(), cwd=ROOT, check=False).returncode
            if scripts or list(arguments) == [SCRIPT_TESTS]:
                return scripts
        # Counting makes them take twice as long, so it is asked for.
        counted = ["-m", "coverage", "run"] if COVERAGE in arguments else []
        labels = [label for label in arguments if label not in (SCRIPT_TESTS, COVERAGE)] or ["tests"]
        tests = [*counted, "src/manage.py", "test", "--no-input", "-t", ".", *labels]
        failed = subprocess.run(
            [str(PYTHON), "-W", "error", *tests], env=env, cwd=ROOT, check=False
        ).returncode
        if counted:
            say("Lines of the source that these tests reached, per cent:")
            subprocess.run([str(PYTHON), "-m", "coverage", "report"], cwd=ROOT, check=False)
        return failed

    return _with_throwaway_database(work)


def check(arguments: Sequence[str]) -> int:
    _install_all()
    python = str(PYTHON)
    failed = []

    def tried(name: str, command: Sequence[str], env: dict[str, str] | None = None) -> None:
        say(f"— {name}")
        if subprocess.run(command, cwd=ROOT, env=env, check=False).returncode:
            failed.append(name)

    tried("lint", [python, "-m", "ruff", "check", "."])
    tried("format", [python, "-m", "ruff", "format", "--check", "."])
    tried("scripts", ["node_modules/.bin/tsc", "--project", "tsconfig.json"])
    tried("templates", [python, "-m", "djlint", "src/oido", "--lint", "--quiet"])
    tried("lock files", [python, "tools/audit.py"])

    def work(env: dict[str, str]) -> int:
        manage = [python, "src/manage.py"]
        # The types of models are read from the settings.
        tried("types", [python, "-m", "mypy"], env)
        tried("system", [*manage, "check", "--fail-level", "WARNING"], env)
        tried("migrations", [*manage, "makemigrations", "--check", "--dry-run"], env)
        return 0

    _with_throwaway_database(work)
    for name in failed:
        complain(f"{name} found something, see above")
    return 1 if failed else 0


def _with_server(command: Callable[[str], list[str]], *, demo: bool) -> int:
    """Serve on a database of its own, a demo school in it if wanted, and run a command given the address."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        port = free_port()
        env |= {
            "OIDO_DEMO": "yes", "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        }  # fmt: skip
        with step("demo school" if demo else "database"):
            _manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
            _manage(COLLECT_STATIC, env, quiet=True)
            if demo:
                _manage(["load_demo"], env, quiet=True)
        server, worker = _serve(port, env), _work(env)
        try:
            _wait_until_ready(server, port)
            words = [str(PYTHON), *command(f"http://127.0.0.1:{port}")]
            return subprocess.run(words, env=env, cwd=ROOT, check=False).returncode
        finally:
            for process in (server, worker):
                _end(process)

    return _with_throwaway_database(work)


def shots(arguments: Sequence[str]) -> int:
    """Serve a fresh demo school and take the pictures of its main views."""
    return _with_server(lambda address: ["tools/shots.py", address, "docs/screenshots"], demo=True)


def bench_stand(what: str) -> int:
    """Time the Stand in a real browser."""
    return _with_server(lambda address: ["tools/benchmark_stand.py", address, what], demo=False)


def _bench_command(command: str) -> int:
    """Time answers of the application within one process, on a database of its own."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        _manage(["migrate", "--no-input", "--verbosity=0"], env)
        _manage([command], env)
        return 0

    return _with_throwaway_database(work)


def bench_report() -> int:
    """Time reports within one process, then in a browser."""
    return _bench_command("benchmark_report") or _with_server(
        lambda address: ["tools/benchmark_report.py", address], demo=False
    )


def bench_mutants(words: Sequence[str]) -> int:
    """Put faults into copies of the code and look whether the tests notice."""
    _install_all()
    env = {**os.environ, "PYTHONPATH": str(ROOT), "OPENBLAS_NUM_THREADS": "1"}
    return subprocess.run(
        [str(PYTHON), "tools/mutants.py", *words], cwd=ROOT, env=env, check=False
    ).returncode


def core(arguments: Sequence[str]) -> int:
    """`measure` and `bench`, the first time: install, then hand over."""
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    return subprocess.run([str(PYTHON), "-m", "ear.cli", *arguments], check=False).returncode


def bench(arguments: Sequence[str]) -> int:
    """The pages' own benches; the core knows the others."""
    what = arguments[0] if arguments else ""
    if what == "editing":
        return _bench_command("benchmark_editing")
    if what == "report":
        return bench_report()
    if what == "mutants":
        return bench_mutants(arguments[1:])
    return bench_stand(what) if what in STAND_BENCHES else core(["bench", *arguments])


def main(arguments: Sequence[str]) -> int:
    command = arguments[0] if arguments else ""
    handlers: dict[str, Callable[[Sequence[str]], int]] = {
        "start": start,
        "test": test,
        "check": check,
        "shots": shots,
        "measure": lambda rest: core(["measure", *rest]),
        "bench": bench,
    }
    if command in ("", "help", "-h", "--help"):
        say(HELP)
        return 0
    if command not in handlers:
        complain(f"there is no command {command!r}; ./oido help lists them")
        return 2
    try:
        return handlers[command](arguments[1:])
    except GiveUp as reason:
        complain(str(reason))
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
