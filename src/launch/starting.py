"""`./oido start`: database, server and workers, until they are stopped."""

import os
import shutil
import signal
import socket
import subprocess
import time
from collections.abc import Sequence
from pathlib import Path

from launch import install
from launch.database import Database, is_port_taken
from launch.install import log_file, run
from launch.leftovers import forget_running, record_running, stop_leftovers
from launch.places import ASSETS, BUILD, DATA, PYTHON, ROOT, digest, is_done, mark_done
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
from launch.progress import counted_share, migrations_share, static_share
from launch.say import GiveUp, say, step
from launch.supervising import LOOPBACK, Kept, answer_unavailable, listen

DEFAULT_PORT = 8000
DEFAULT_DB_PORT = 33306
BACKGROUND_WORKERS = 2
LOOK_SECONDS = 0.5
MANAGE = (str(PYTHON), "src/manage.py")
EMPTY = "--empty"
"""Without the demo school: somebody sets one up. It has a database of its own, beside the demo's."""


def number_from_environment(name: str, default: int) -> int:
    """Return a whole number that is set. Raises GiveUp."""
    value = os.environ.get(name, "")
    if value and not value.isdigit():
        raise GiveUp(f"{name} must be a whole number, not {value!r}")
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
    port = number_from_environment("OIDO_PORT", DEFAULT_PORT)
    stop_leftovers(folder)
    if is_port_taken(port):
        raise GiveUp(
            f"port {port} is taken; stop what uses it, or choose another: OIDO_PORT={port + 1} ./oido start"
        )
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    install.node_libraries()
    install.assets()
    database = Database(folder=folder, port=number_from_environment("OIDO_DB_PORT", DEFAULT_DB_PORT))
    # SIGINT too: a shell that starts Oido in the background has it ignored.
    signal.signal(signal.SIGTERM, interrupt)
    signal.signal(signal.SIGINT, interrupt)
    kept: list[Kept] = []
    try:
        kept.append(Kept(name="the database", begin=lambda: _started(database)))
        kept[0].start()
        _record(folder, kept)
        env = environment(
            database,
            OIDO_DEMO="no" if is_empty else "yes",
            OIDO_ADDRESS=os.environ.get("OIDO_ADDRESS") or f"http://127.0.0.1:{port}",
        )
        _prepare(env, folder, with_demo=not is_empty)
        listener = listen(port, os.environ.get("OIDO_LISTEN") or LOOPBACK)
        server = Kept(name="the server", begin=lambda: serve(listener, env))
        kept.append(server)
        kept += [
            Kept(name=f"background worker {number}", begin=lambda: work_in_background(env))
            for number in range(1, BACKGROUND_WORKERS + 1)
        ]
        kept.append(Kept(name="the scheduler", begin=lambda: schedule(env)))
        for process in kept[1:]:
            process.start()
        _record(folder, kept)
        assert server.process is not None
        wait_until_ready(server.process, port)
        (_tell_code if is_empty else _welcome)(port, env)
        _watch(kept, server, listener, folder)
        return 0
    except KeyboardInterrupt:
        say("\nStopping …")
        return 0
    finally:
        # A second Ctrl-C must not leave the database running.
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        for process in reversed(kept[1:]):
            if process.process is not None:
                end(process.process)
        database.stop()
        forget_running(folder)


def _fresh_log(name: str) -> Path:
    """A log that an earlier run has left nothing in."""
    file = log_file(name)
    file.unlink(missing_ok=True)
    return file


def _prepare(env: dict[str, str], folder: Path, *, with_demo: bool) -> None:
    """Migrate, gather static files and load the demo school, each only when there is need."""
    migrations = sorted((ROOT / "src" / "oido").glob("*/migrations/*.py"))
    state = digest(*migrations)
    stamp = folder / "migrated"
    if not is_done(stamp, state):
        with step("tables", migrations_share(_fresh_log("tables"), migrations)):
            run([*MANAGE, "migrate", "--no-input"], log="tables", env=env)
        mark_done(stamp, state)
    static = sorted(p for p in (ROOT / "src" / "oido").glob("*/static/**/*") if p.is_file())
    state = digest(ASSETS / ".ready", *static)
    stamp = BUILD / "static" / ".gathered"
    if not is_done(stamp, state):
        with step("static files", static_share(BUILD / "static")):
            shutil.rmtree(BUILD / "static", ignore_errors=True)
            manage(COLLECT_STATIC, env, quiet=True)
        mark_done(stamp, state)
    stamp = folder / "demo-loaded"
    if with_demo and not stamp.exists():
        with step("demo school", counted_share(_fresh_log("demo"))):
            run([*MANAGE, "load_demo", "--progress"], log="demo", env=env)
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


def _started(database: Database) -> subprocess.Popen[bytes]:
    database.start()
    assert database.process is not None
    return database.process


def _record(folder: Path, kept: Sequence[Kept]) -> None:
    record_running(folder, {one.name: one.process.pid for one in kept if one.process is not None})


def _watch(kept: Sequence[Kept], server: Kept, listener: socket.socket, folder: Path) -> None:
    """Keep everything running, until Ctrl-C."""
    while True:
        begun = [one for one in kept if one.look()]
        if begun:
            _record(folder, kept)
        if server.is_up:
            time.sleep(LOOK_SECONDS)
        else:
            answer_unavailable(listener, LOOK_SECONDS)
