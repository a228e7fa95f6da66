"""Tests, checks, pictures and benches: what is done on a database of its own, thrown away afterwards."""

import os
import resource
import secrets
import shutil
import signal
import subprocess
import sys
import tempfile
import time
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
    schedule,
    serve,
    wait_until_ready,
    work_in_background,
)
from launch.say import complain, say, step
from launch.supervising import listen

SCRIPT_TESTS, CORE_TESTS, HOUSE_TESTS = "tests.scripts", "tests.ear", "tests.ear.test_layers"
COVERAGE = "--coverage"
STAND_BENCHES = ("recording", "latency")
APPLICATION_BENCHES = ("editing", "lists", "requests", "scale")
DEPLOYED = {"OIDO_ENV": "production", "OIDO_ADDRESS": "https://oido.example.org", "OIDO_PROXIES": "127.0.0.1"}
"""What makes an installation one that serves a school."""
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


def _is_of(label: str, package: str) -> bool:
    return label == package or label.startswith(f"{package}.")


def _alone(labels: Sequence[str]) -> int | None:
    """Run tests that need neither database nor browser: those of scripts need Node alone, the house rules of the core
    nothing, the core's other tests its libraries. None where others are among them."""
    if not labels or not all(_is_of(label, SCRIPT_TESTS) or _is_of(label, CORE_TESTS) for label in labels):
        return None
    core_labels = [label for label in labels if _is_of(label, CORE_TESTS)]
    if len(core_labels) < len(labels):
        failed = subprocess.run(_script_tests(), cwd=ROOT, check=False).returncode
        if failed or not core_labels:
            return failed
    python = sys.executable
    if not all(_is_of(label, HOUSE_TESTS) for label in core_labels):
        install.virtualenv(with_dev=True)
        python = str(PYTHON)
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "OPENBLAS_NUM_THREADS": "1"}
    whole = ["discover", "-s", "tests/ear", "-t", "."]
    words = whole if CORE_TESTS in core_labels else core_labels
    return subprocess.run(
        [python, "-W", "error", "-m", "unittest", *words], cwd=ROOT, env=env, check=False
    ).returncode


def test(arguments: Sequence[str]) -> int:
    if COVERAGE not in arguments and (failed_alone := _alone(arguments)) is not None:
        return failed_alone
    _install_all()

    def work(env: dict[str, str]) -> int:
        env |= {
            "DJANGO_SETTINGS_MODULE": "oido.config.settings_test",
            "DJANGO_ALLOW_ASYNC_UNSAFE": "1",
            "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
        }
        if SCRIPT_TESTS in arguments or not set(arguments) - {COVERAGE}:
            scripts = subprocess.run(_script_tests(), cwd=ROOT, check=False).returncode
            if scripts:
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


def _script_types(env: dict[str, str], arguments: Sequence[str]) -> int:
    command = [str(PYTHON), "tools/script_types.py", *arguments]
    with_source = {**env, "PYTHONPATH": str(ROOT / "src")}
    return subprocess.run(command, cwd=ROOT, env=with_source, check=False).returncode


def types(arguments: Sequence[str]) -> int:
    """Write the types that scripts and server share, from Python's."""
    _install_all()
    return _with_throwaway_database(lambda env: _script_types(env, arguments))


def texts(arguments: Sequence[str]) -> int:
    """Gather what pages, core and scripts say into the catalogues, for translation."""
    _install_all()
    gather = [str(PYTHON), "tools/catalogues.py"]
    return _with_throwaway_database(
        lambda env: subprocess.run(gather, cwd=ROOT, env=env, check=False).returncode
    )


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
    tried("licences", [python, "tools/licences.py", "--check"])

    def work(env: dict[str, str]) -> int:
        manage = [python, "src/manage.py"]
        # The types of models are read from the settings.
        tried("types", [python, "-m", "mypy"], env)
        say("— shared types")
        if _script_types(env, ["--check"]):
            failed.append("shared types")
        tried("system", [*manage, "check", "--fail-level", "WARNING"], env)
        deployed = {**env, **DEPLOYED, "OIDO_SECRET_KEY": secrets.token_urlsafe(48)}
        tried("deployment", [*manage, "check", "--deploy", "--fail-level", "WARNING"], deployed)
        tried("texts in other languages", [python, "tools/catalogues.py", "--check"], env)
        tried("migrations", [*manage, "makemigrations", "--check", "--dry-run"], env)
        return 0

    _with_throwaway_database(work)
    for name in failed:
        complain(f"{name} found something, see above")
    return 1 if failed else 0


def _with_server(command: Callable[[str], list[str]], *, demo: bool, workers: int = 1) -> int:
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
        beside = [serve(listener, env), schedule(env), *(work_in_background(env) for _ in range(workers))]
        try:
            wait_until_ready(beside[0], port)
            words = [str(PYTHON), *command(f"http://127.0.0.1:{port}")]
            return subprocess.run(words, env=env, cwd=ROOT, check=False).returncode
        finally:
            for process in beside:
                end(process)

    return _with_throwaway_database(work)


def shots(arguments: Sequence[str]) -> int:
    """Serve a fresh demo school and take the pictures of its main views."""
    return _with_server(lambda address: ["tools/shots.py", address, "docs/screenshots"], demo=True)


def bench_stand(bench: str) -> int:
    """Time the Stand in a real browser."""
    return _with_server(lambda address: ["-m", "benches.stand", address, bench], demo=False)


def bench_pages() -> int:
    """Measure what the main pages cost a small computer on a slow line."""
    return _with_server(lambda address: ["-m", "benches.pages", address], demo=True)


def bench_uploads(words: Sequence[str]) -> int:
    """Time many students who send their takes at once. Locust, which only this needs, is installed beside."""
    _install_all()
    install.extra_libraries("load.txt")
    return _with_server(lambda address: ["-m", "benches.uploads", address, *words], demo=False, workers=2)


def bench_machines(words: Sequence[str]) -> int:
    """Serve as two machines do, behind a proxy, and kill one of each kind of process."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        env |= {
            **DEPLOYED, "OIDO_ADDRESS": f"https://localhost:{free_port()}", "OIDO_LOG": "ERROR", "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}",
        }  # fmt: skip
        manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
        manage(COLLECT_STATIC, env, quiet=True)
        command = [str(PYTHON), "-m", "benches.machines", *words]
        return subprocess.run(command, env=env, cwd=ROOT, check=False).returncode

    return _with_throwaway_database(work)


def bench_start() -> int:
    """Do what a first start does once the libraries are there, and print what each step costs."""
    _install_all()
    database = _throwaway_database()
    total = 0.0

    def timed(name: str, do: Callable[[], object]) -> None:
        nonlocal total
        before, began = _children_cpu_s(), time.monotonic()
        do()
        cpu_s = _children_cpu_s() - before
        total += cpu_s
        say(f"  {name:14} {cpu_s:6.1f} s of CPU {time.monotonic() - began:6.1f} s")

    with tempfile.TemporaryDirectory(prefix="oido-static-") as static:
        try:
            timed("database", database.start)
            env = environment(database) | {"OIDO_STATIC_ROOT": static, "OIDO_DEMO": "yes"}
            timed("tables", lambda: manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True))
            timed("static files", lambda: manage(COLLECT_STATIC, env, quiet=True))
            timed("demo school", lambda: manage(["load_demo"], env, quiet=True))
        finally:
            database.stop()
            shutil.rmtree(database.folder, ignore_errors=True)
    say(f"  {'together':14} {total:6.1f} s of CPU")
    return 0


def _children_cpu_s() -> float:
    """CPU seconds of the processes that have ended; the database itself runs on."""
    usage = resource.getrusage(resource.RUSAGE_CHILDREN)
    return usage.ru_utime + usage.ru_stime


def bench_breaking(bench: str, words: Sequence[str]) -> int:
    """Kill processes of a running Oido, or break its database, while a class works: is everything kept, once?"""
    _install_all()
    with tempfile.TemporaryDirectory(prefix="oido-kills-") as folder:
        env = {
            **os.environ, "OIDO_DATA": folder, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "OPENBLAS_NUM_THREADS": "1",
        }  # fmt: skip
        command = [str(PYTHON), "-m", f"benches.{bench}", *words]
        return subprocess.run(command, cwd=ROOT, env=env, check=False).returncode


def _bench_application(bench: str, words: Sequence[str] = ()) -> int:
    """Time answers of the application within one process, on a database of its own."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        env |= {"OIDO_LOG": "WARNING", "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
        manage(["migrate", "--no-input", "--verbosity=0"], env)
        manage(COLLECT_STATIC, env, quiet=True)
        return subprocess.run(
            [str(PYTHON), "-m", "benches", bench, *words], env=env, cwd=ROOT, check=False
        ).returncode

    return _with_throwaway_database(work)


def bench_report() -> int:
    """Time reports within one process, then in a browser."""
    return _bench_application("report") or _with_server(
        lambda address: ["-m", "benches.report_in_browser", address], demo=False
    )


def bench_mutants(words: Sequence[str]) -> int:
    """Put faults into copies of the code and look whether the tests notice."""
    _install_all()

    def work(env: dict[str, str]) -> int:
        env |= {"PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "DJANGO_ALLOW_ASYNC_UNSAFE": "1"}
        command = [str(PYTHON), "-m", "benches.mutants", *words]
        return subprocess.run(command, cwd=ROOT, env=env, check=False).returncode

    return _with_throwaway_database(work)


def bench_words() -> int:
    """Print how plainly pages and code speak, in figures."""
    _install_all()
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    return subprocess.run([str(PYTHON), "-m", "benches.words"], cwd=ROOT, env=env, check=False).returncode


def bench_beside_others(bench: str, words: Sequence[str]) -> int:
    """What Oido makes of files beside other libraries that only this needs: spelling and writing of a corpus, reading of a
    folder."""
    _install_all()
    install.extra_libraries("bench.txt")
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "OPENBLAS_NUM_THREADS": "1"}
    return subprocess.run([str(PYTHON), "-m", f"benches.{bench}", *words], env=env, check=False).returncode


def core(arguments: Sequence[str]) -> int:
    """`measure` and `read`, the first time: install, then hand over."""
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    return subprocess.run([str(PYTHON), "-m", "ear.cli", *arguments], check=False).returncode


def _bench_core(arguments: Sequence[str]) -> int:
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}", "OPENBLAS_NUM_THREADS": "1"}
    return subprocess.run([str(PYTHON), "-m", "benches", *arguments], env=env, check=False).returncode


def bench(arguments: Sequence[str]) -> int:
    """Run the bench that the first argument names, and return its exit status. The core knows its own benches."""
    name = arguments[0] if arguments else ""
    if name in APPLICATION_BENCHES:
        return _bench_application(name, arguments[1:])
    if name == "report":
        return bench_report()
    if name == "start":
        return bench_start()
    if name in ("kills", "outages"):
        return bench_breaking(name, arguments[1:])
    if name == "pages":
        return bench_pages()
    if name == "machines":
        return bench_machines(arguments[1:])
    if name == "uploads":
        return bench_uploads(arguments[1:])
    if name in ("engraving", "spelling", "files"):
        return bench_beside_others(name, arguments[1:])
    if name == "mutants":
        return bench_mutants(arguments[1:])
    if name == "words":
        return bench_words()
    return bench_stand(name) if name in STAND_BENCHES else _bench_core(arguments)
