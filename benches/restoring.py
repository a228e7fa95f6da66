"""Restores of a backup, each killed at a random moment: none of them may pass for whole."""

import os
import signal
import subprocess
import sys
import time
from collections import Counter
from dataclasses import replace
from pathlib import Path
from random import Random
from typing import Any

from launch.backing_up import Access, access_from, make
from launch.database import Database, free_port
from launch.places import DATA, ROOT
from launch.processes import environment, manage

STUDENTS, NOTES = 8, 120


def restores_killed(kills: int, seed: int) -> dict[str, Any]:
    """Kill so many restores into empty databases, then let each database be used or be restored anew; return what came of it."""
    random = Random(seed)
    database = Database(folder=DATA / "restores", port=free_port(), is_throwaway=True)
    database.folder.mkdir(parents=True, exist_ok=True)
    database.start()
    try:
        env = environment(database)
        manage(["migrate", "--no-input", "--verbosity=0"], env, quiet=True)
        os.environ |= env | {"OIDO_LOG": "ERROR"}
        _fill()
        access = access_from(env)
        backup, manifest = make(DATA / "backups", access)
        writing_s = _restored_s(database, replace(access, name="oido_whole"), backup)
        counts: Counter[str] = Counter({"restores": kills, "rows": sum(manifest["rows"].values())})
        passed_for_whole, refused_afterwards = [], []
        for number in range(kills):
            name = f"oido_{number}"
            place = replace(access, name=name)
            _restored_s(database, place, backup, kill_after_s=random.uniform(0, writing_s / 2))
            is_whole = _has_all(database, name, manifest)
            counts["whole all the same" if is_whole else "broken off"] += 1
            if _is_usable(place, env) and not is_whole:
                passed_for_whole.append(number)
            _sql(database, f"DROP DATABASE {name}")
            _restored_s(database, place, backup)
            if not (_is_usable(place, env) and _has_all(database, name, manifest)):
                refused_afterwards.append(number)
            _sql(database, f"DROP DATABASE {name}")
    finally:
        database.stop()
    return {
        "killed": {"restore": kills}, "counts": dict(counts),
        "faults": {"passed for whole": passed_for_whole, "not restored afterwards": refused_afterwards},
    }  # fmt: skip


def _fill() -> None:
    import django

    django.setup()
    from benches.scene import Scene
    from oido.people.scope import Scope, within

    with within(Scope.EVERYWHERE):
        scene = Scene(students=STUDENTS)
        scene.takes(scene.assignment(NOTES))


def _restored_s(
    database: Database, place: Access, backup: Path, *, kill_after_s: float | None = None
) -> float:
    """Restore into a new database, killed so long after its first table appeared if said; return the seconds from there on."""
    _sql(
        database,
        f"CREATE DATABASE IF NOT EXISTS {place.name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci;"
        f"GRANT ALL ON {place.name}.* TO '{place.user}'@'127.0.0.1'",
    )
    env = {
        **os.environ, "OIDO_DB_NAME": place.name, "OIDO_DATA": str(DATA / place.name), "PYTHONPATH": str(ROOT / "src"),
    }  # fmt: skip
    restore = subprocess.Popen(
        [sys.executable, "-m", "launch", "restore", str(backup)], env=env, cwd=ROOT, start_new_session=True,
        stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    while restore.poll() is None and not _sql(database, f"SHOW TABLES IN {place.name}"):
        time.sleep(0.005)
    begun = time.monotonic()
    try:
        restore.wait(kill_after_s)
    except subprocess.TimeoutExpired:
        os.killpg(restore.pid, signal.SIGKILL)
        restore.wait()
    return time.monotonic() - begun


def _is_usable(place: Access, env: dict[str, str]) -> bool:
    """Would Oido serve this database?"""
    command = [sys.executable, "src/manage.py", "migrate", "--check"]
    done = subprocess.run(
        command, env={**env, "OIDO_DB_NAME": place.name}, cwd=ROOT, check=False, capture_output=True
    )
    return done.returncode == 0


def _has_all(database: Database, name: str, manifest: dict[str, Any]) -> bool:
    try:
        return all(
            int(_sql(database, f"SELECT COUNT(*) FROM {name}.`{table}`")) == count  # noqa: S608 - names of our own dump
            for table, count in manifest["rows"].items()
        )
    except RuntimeError:
        return False


def _sql(database: Database, statements: str) -> str:
    done = subprocess.run(
        ["mariadb", "--no-defaults", f"--socket={database.socket}", "--user=root", "--skip-column-names", f"--execute={statements}"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        raise RuntimeError(done.stderr)
    return done.stdout
