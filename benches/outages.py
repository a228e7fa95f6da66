"""The database breaks in several ways while a class works: `./oido bench outages`.

    python -m benches.outages [--only NAME] [--seed 1]

As with `kills.py`, what the server has acknowledged has to be stored, measured and handed in, and nothing of it twice. Oido has to
serve pages again without help once an outage is over. Runs in an installation of its own, in the folder OIDO_DATA.
"""

import argparse
import os
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from contextlib import suppress
from random import Random

from benches.installation import Installation, while_class_works
from launch.database import Database
from launch.places import DATA

CALM_S, SERVED_AGAIN_S = 5.0, 60.0
GONE_S, READ_ONLY_S, SLOW_S, DEADLOCKS_S = 60.0, 20.0, 30.0, 20.0
ALSO_SERVES = "/sign-in/"
TABLE_FULL = 1114


def gone(installation: Installation) -> None:
    """The database does not answer for a minute, as where its machine hangs."""
    [pid] = installation.processes()["database"]
    os.kill(pid, signal.SIGSTOP)
    try:
        time.sleep(GONE_S)
    finally:
        os.kill(pid, signal.SIGCONT)


def slow(installation: Installation) -> None:
    """The database stands still for four fifths of the time."""
    [pid] = installation.processes()["database"]
    until = time.monotonic() + SLOW_S
    try:
        while time.monotonic() < until:
            os.kill(pid, signal.SIGSTOP)
            time.sleep(0.4)
            os.kill(pid, signal.SIGCONT)
            time.sleep(0.1)
    finally:
        os.kill(pid, signal.SIGCONT)


def read_only(installation: Installation) -> None:
    """The database takes no changes, as a replica does that is about to take over."""
    _as_root(installation, "SET GLOBAL read_only = 1")
    try:
        time.sleep(READ_ONLY_S)
    finally:
        _as_root(installation, "SET GLOBAL read_only = 0")


def full(installation: Installation) -> None:
    """No row can be added to the table of takes, as where its disk is full."""
    signal_full = f"SIGNAL SQLSTATE 'HY000' SET MYSQL_ERRNO = {TABLE_FULL}"
    _as_root(
        installation,
        f"CREATE TRIGGER oido.no_room BEFORE INSERT ON oido.takes_take FOR EACH ROW {signal_full}",
    )
    try:
        time.sleep(READ_ONLY_S)
    finally:
        _as_root(installation, "DROP TRIGGER oido.no_room")


def deadlocks(installation: Installation) -> None:
    """Transactions that lock what students lock, in another order."""
    until, random = time.monotonic() + DEADLOCKS_S, Random(1)
    while time.monotonic() < until:
        first, second = random.sample(range(1, 11), 2)
        takes = f"SELECT * FROM takes_take LIMIT {first} FOR UPDATE"  # noqa: S608 - nothing from outside
        person = f"SELECT * FROM people_user WHERE id = {second} FOR UPDATE"  # noqa: S608 - nothing from outside
        transaction = f"USE oido; BEGIN; {takes}; {person}; SELECT SLEEP(0.2); ROLLBACK"
        _as_root(installation, transaction, ignore=True)


OUTAGES: dict[str, Callable[[Installation], None]] = {
    outage.__name__: outage for outage in (gone, slow, read_only, full, deadlocks)
}


def _as_root(installation: Installation, statements: str, *, ignore: bool = False) -> None:
    database = Database(folder=DATA / "empty", port=installation.db_port)
    command = [
        "mariadb",
        "--no-defaults",
        f"--socket={database.socket}",
        "--user=root",
        f"--execute={statements}",
    ]
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    if done.returncode and not ignore:
        raise RuntimeError(done.stderr)


def serves_again_s(installation: Installation) -> float:
    """Return the seconds until a page is served. Raises RuntimeError where that takes too long."""
    begun = time.monotonic()
    while time.monotonic() - begun < SERVED_AGAIN_S:
        with (
            suppress(OSError, urllib.error.URLError),
            urllib.request.urlopen(installation.address + ALSO_SERVES, timeout=5),
        ):
            return time.monotonic() - begun
        time.sleep(0.2)
    raise RuntimeError("no page is served any more")


def main(names: list[str], seed: int) -> int:
    lines = []

    def break_in_turn(installation: Installation) -> None:
        for name in names:
            time.sleep(CALM_S)
            OUTAGES[name](installation)
            lines.append(f"{name}: pages are served {serves_again_s(installation):.1f} s after it was over")
        time.sleep(CALM_S)

    outcome = while_class_works(seed, break_in_turn)
    print("\n".join([*outcome.lines, *lines]))
    return int(not outcome.is_kept)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", choices=OUTAGES, help="instead of all, one after the other")
    parser.add_argument("--seed", type=int, default=1)
    chosen = parser.parse_args()
    sys.exit(main([chosen.only] if chosen.only else [*OUTAGES], chosen.seed))
