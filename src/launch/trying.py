"""Tests, checks, pictures and benches: what is done on a database of its own, thrown away afterwards."""

import os
import shutil
import signal
import subprocess
import tempfile
from collections.abc import Callable, Sequence
from pathlib import Path

from launch import install
from launch.database import Database, free_port
from launch.places import PYTHON, ROOT
from launch.processes import (
    COLLECT_STATIC,
    end,
    environment,
    interrupt,
    manage,
    serve,
    wait_until_ready,
    work_in_background,
)
from launch.say import complain, say, step
from launch.supervising import listen

SCRIPT_TESTS = "tests.scripts"
COVERAGE = "--coverage"
STAND_BENCHES = ("recording", "latency")
TESTS_ABREAST = 4
"""At most: each drives a browser and a database of its own."""


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
    signal.signal(signal.SIGTERM, interrupt)
    try:
        database.start()
        return work(environment(database))
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
        # Counting makes them take twice as long, and counts one process, so it is asked for.
        counted = ["-m", "coverage", "run"] if COVERAGE in arguments else []
        labels = [label for label in arguments if label not in (SCRIPT_TESTS, COVERAGE)] or ["tests"]
        abreast = 1 if counted else min(TESTS_ABREAST, os.cpu_count() or 1)
        tests = [*counted, "src/manage.py", "test", "--no-input", f"--parallel={abreast}", "-t", ".", *labels]
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
        listener = listen(0)
        port = listener.getsockname()[1]
        env |= {
            "OIDO_DEMO": "yes", "OIDO_LOG": "WARNING", "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
        }  # fmt: skip
        with step("demo school" if demo else "database"):
            manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
            manage(COLLECT_STATIC, env, quiet=True)
            if demo:
                manage(["load_demo"], env, quiet=True)
        server, worker = serve(listener, env), work_in_background(env)
        try:
            wait_until_ready(server, port)
            words = [str(PYTHON), *command(f"http://127.0.0.1:{port}")]
            return subprocess.run(words, env=env, cwd=ROOT, check=False).returncode
        finally:
            for process in (server, worker):
                end(process)

    return _with_throwaway_database(work)


def shots(arguments: Sequence[str]) -> int:
    """Serve a fresh demo school and take the pictures of its main views."""
    return _with_server(lambda address: ["tools/shots.py", address, "docs/screenshots"], demo=True)


def bench_stand(what: str) -> int:
    """Time the Stand in a real browser."""
    return _with_server(lambda address: ["tools/benchmark_stand.py", address, what], demo=False)


def bench_uploads() -> int:
    """Time a class that sends its takes at once."""
    return _with_server(lambda address: ["tools/benchmark_uploads.py", address], demo=False)


def bench_kills(words: Sequence[str]) -> int:
    """Kill processes of a running Oido while students send takes: is everything kept, once?"""
    _install_all()
    with tempfile.TemporaryDirectory(prefix="oido-kills-") as folder:
        env = {
            **os.environ, "OIDO_DATA": folder, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "OPENBLAS_NUM_THREADS": "1",
        }  # fmt: skip
        command = [str(PYTHON), "tools/kills.py", *words]
        return subprocess.run(command, cwd=ROOT, env=env, check=False).returncode


def _bench_command(command: str) -> int:
    """Time answers of the application within one process, on a database of its own."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        env["OIDO_LOG"] = "WARNING"
        manage(["migrate", "--no-input", "--verbosity=0"], env)
        manage(COLLECT_STATIC, env, quiet=True)
        manage([command], env)
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


def bench_beside_others(what: str, words: Sequence[str]) -> int:
    """What Oido makes of files beside other libraries that only this needs: spelling of a corpus, reading of a folder."""
    _install_all()
    install.extra_libraries("bench.txt")
    env = {**os.environ, "PYTHONPATH": str(ROOT / "src"), "OPENBLAS_NUM_THREADS": "1"}
    return subprocess.run(
        [str(PYTHON), str(ROOT / f"tools/benchmark_{what}.py"), *words], env=env, check=False
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
    if what == "kills":
        return bench_kills(arguments[1:])
    if what == "requests":
        return _bench_command("benchmark_requests")
    if what == "lists":
        return _bench_command("benchmark_lists")
    if what == "uploads":
        return bench_uploads()
    if what in ("spelling", "files"):
        return bench_beside_others(what, arguments[1:])
    if what == "mutants":
        return bench_mutants(arguments[1:])
    return bench_stand(what) if what in STAND_BENCHES else core(["bench", *arguments])
