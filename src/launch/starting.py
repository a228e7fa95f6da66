"""`./oido start`: database, server and workers, until they are stopped."""

import os
import shutil
import signal
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

from launch import install
from launch.database import Database, is_port_taken
from launch.places import ASSETS, BUILD, DATA, ROOT, digest, is_done, mark_done
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
from launch.say import GiveUp, complain, say, step

DEFAULT_PORT = 8000
DEFAULT_DB_PORT = 33306
BACKGROUND_WORKERS = 2
EMPTY = "--empty"
"""Without the demo school: somebody sets one up. It has a database of its own, beside the demo's."""


def _number_from_environment(name: str, default: int) -> int:
    value = os.environ.get(name, "")
    if value and not value.isdigit():
        raise GiveUp(f"{name} must be a port number, not {value!r}")
    return int(value) if value else default


def start(arguments: Sequence[str]) -> int:
    """Install, start database and server, wait until both serve, stop both on Ctrl-C."""
    unknown = set(arguments) - {EMPTY}
    if unknown:
        raise GiveUp(
            f"start knows no {', '.join(sorted(unknown))}; there is `./oido start` and `./oido start {EMPTY}`"
        )
    is_empty = EMPTY in arguments
    folder = DATA / "empty" if is_empty else DATA
    port = _number_from_environment("OIDO_PORT", DEFAULT_PORT)
    if is_port_taken(port):
        raise GiveUp(
            f"port {port} is taken; stop what uses it, or choose another: OIDO_PORT={port + 1} ./oido start"
        )
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    install.node_libraries()
    install.assets()
    database = Database(folder=folder, port=_number_from_environment("OIDO_DB_PORT", DEFAULT_DB_PORT))
    # SIGINT too: a shell that starts Oido in the background has it ignored.
    signal.signal(signal.SIGTERM, interrupt)
    signal.signal(signal.SIGINT, interrupt)
    server, workers = None, []
    try:
        database.start()
        env = environment(
            database, OIDO_DEMO="no" if is_empty else "yes", OIDO_ADDRESS=f"http://127.0.0.1:{port}"
        )
        _prepare(env, folder, with_demo=not is_empty)
        server = serve(port, env)
        workers += [work_in_background(env) for _ in range(BACKGROUND_WORKERS)]
        wait_until_ready(server, port)
        (_tell_code if is_empty else _welcome)(port, env)
        return _watch(server, workers, database, env)
    except KeyboardInterrupt:
        say("\nStopping …")
        return 0
    finally:
        # A second Ctrl-C must not leave the database running.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in (server, *workers):
            if process is not None:
                end(process)
        database.stop()


def _prepare(env: dict[str, str], folder: Path, *, with_demo: bool) -> None:
    """Migrate, gather static files and load the demo school, each only when there is need."""
    migrations = sorted((ROOT / "src" / "oido").glob("*/migrations/*.py"))
    state = digest(*migrations)
    stamp = folder / "migrated"
    if not is_done(stamp, state):
        with step("tables"):
            manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
        mark_done(stamp, state)
    static = sorted(p for p in (ROOT / "src" / "oido").glob("*/static/**/*") if p.is_file())
    state = digest(ASSETS / ".ready", *static)
    stamp = BUILD / "static" / ".gathered"
    if not is_done(stamp, state):
        with step("static files"):
            shutil.rmtree(BUILD / "static", ignore_errors=True)
            manage(COLLECT_STATIC, env, quiet=True)
        mark_done(stamp, state)
    stamp = folder / "demo-loaded"
    if with_demo and not stamp.exists():
        with step("demo school"):
            manage(["load_demo"], env, quiet=True)
        mark_done(stamp, "1")


def _tell_code(port: int, env: dict[str, str]) -> None:
    """Where there is no school yet: the code with which it is set up, once."""
    say(f"\nOido is ready: http://127.0.0.1:{port}\n")
    code = manage(["setup_code"], env, quiet=True).strip()
    if code:
        say(f"  There is no school yet. Set one up there with this code: {code}\n")
    say("Ctrl-C stops Oido and its database.")


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
                workers[k] = work_in_background(env)
                time.sleep(1.0)
        if server.poll() is not None:
            complain("the server stopped; start again with ./oido start")
            return 1
        if database.process is not None and database.process.poll() is not None:
            complain(f"the database stopped; see {database.data / 'mariadbd.log'}, then ./oido start")
            return 1
        time.sleep(0.5)
