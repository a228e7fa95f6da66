"""`./oido backup` and `./oido restore`: everything that an installation keeps, in one file, made while people work.

A backup is a tar file with `manifest.json` (when, by which version, how many rows each table has, the hash of each other
file), the database as SQL, and the settings and keys of the installation. With a key it is encrypted by age.
"""

import gzip
import hashlib
import io
import json
import os
import re
import shutil
import subprocess
import tarfile
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import IO

from launch.deploying import SETTINGS, installed_environment
from launch.places import DATA, ROOT
from launch.say import GiveUp, say
from launch.starting import DEFAULT_DB_PORT

FORMAT = "oido.backup/1"
MANIFEST, DUMP, ENV_FILE, KEY_FILE = "manifest.json", "database.sql.gz", "settings.env", "secret-key"
KEPT = 14
MIGRATIONS_TABLE = "django_migrations"
"""Comes last: without it no process takes a database for whole, so a restore that was broken off cannot pass for one."""
INSERT = re.compile(rb"^INSERT INTO `(\w+)`")
NAME = "oido-%Y%m%d-%H%M%S"
CHUNK = 1 << 20


@dataclass(frozen=True, slots=True, kw_only=True)
class Access:
    """How the database is reached."""

    host: str
    port: int
    name: str
    user: str
    password: str

    @contextmanager
    def options(self) -> Iterator[str]:
        """Options for MariaDB's programs. The password is in a file for this user alone: a command line can be read by all."""
        with tempfile.NamedTemporaryFile("w", prefix="oido-", suffix=".cnf") as file:
            file.write(
                f"[client]\nhost={self.host}\nport={self.port}\nuser={self.user}\npassword={self.password}\n"
            )
            file.flush()
            yield f"--defaults-extra-file={file.name}"


def access_from(env: dict[str, str]) -> Access:
    """Return how the database of an installation is reached."""
    return Access(
        host=env.get("OIDO_DB_HOST") or "127.0.0.1", port=int(env.get("OIDO_DB_PORT") or DEFAULT_DB_PORT),
        name=env.get("OIDO_DB_NAME") or "oido", user=env.get("OIDO_DB_USER") or "oido", password=env.get("OIDO_DB_PASSWORD", ""),
    )  # fmt: skip


def _value(words: list[str], option: str) -> str:
    """Take an option and its value out of the words of a command; empty without it. Raises GiveUp."""
    if option not in words:
        return ""
    at = words.index(option)
    if at + 1 == len(words):
        raise GiveUp(f"{option} needs a value")
    value = words[at + 1]
    del words[at : at + 2]
    return value


def backup(arguments: Sequence[str]) -> int:
    """Write a backup into a folder, and remove the oldest ones beyond those that are kept."""
    words = list(arguments)
    key, kept = _value(words, "--key"), _value(words, "--keep") or str(KEPT)
    if len(words) != 1 or words[0].startswith("-") or not kept.isdigit() or int(kept) < 1:
        raise GiveUp(f"say where to: ./oido backup FOLDER [--key PUBLIC-KEY-FILE] [--keep {KEPT}]")
    folder = Path(words[0])
    file, manifest = make(folder, access_from(installed_environment()), key=Path(key) if key else None)
    rotate(folder, int(kept))
    rows = sum(manifest["rows"].values())
    say(f"{file}: {len(manifest['rows'])} tables with {rows:,} rows, {file.stat().st_size / 1e6:.1f} MB")
    return 0


def make(folder: Path, access: Access, *, key: Path | None = None) -> tuple[Path, dict]:
    """Write a backup, whole or not at all; its file, and what its manifest says. `key` has age's public keys. Raises GiveUp."""
    if key is not None and not key.is_file():
        raise GiveUp(f"there is no key file {key}")
    folder.mkdir(parents=True, exist_ok=True)
    made_at = datetime.now(UTC)
    target = folder / (made_at.strftime(NAME) + (".tar.age" if key else ".tar"))
    with tempfile.TemporaryDirectory(prefix=".oido-", dir=folder) as inside:
        work = Path(inside)
        rows = _dump(access, work / DUMP)
        for source, name in ((SETTINGS, ENV_FILE), (DATA / "secret-key", KEY_FILE)):
            if source.is_file():
                shutil.copyfile(source, work / name)
        members = sorted(work.iterdir())
        manifest = {
            "format": FORMAT, "made_at": made_at.isoformat(), "version": _version(), "rows": rows,
            "sha256": {member.name: _hash(member) for member in members},
        }  # fmt: skip
        whole = work / "whole.tar"
        with tarfile.open(whole, "w") as tar:
            text = json.dumps(manifest, indent=1).encode()
            about = tarfile.TarInfo(MANIFEST)
            about.size = len(text)
            tar.addfile(about, io.BytesIO(text))
            for member in members:
                tar.add(member, arcname=member.name)
        if key is not None:
            _run(["age", "--encrypt", "--recipients-file", str(key), "--output", f"{whole}.age", str(whole)])
            whole = Path(f"{whole}.age")
        whole.chmod(0o600)
        with whole.open("rb") as file:
            os.fsync(file.fileno())
        whole.replace(target)
    return target, manifest


def rotate(folder: Path, kept: int) -> None:
    """Remove the oldest backups beyond those that are kept."""
    for old in sorted(folder.glob("oido-*.tar*"))[:-kept]:
        old.unlink()


def _dump(access: Access, file: Path) -> dict[str, int]:
    """Write the database as it is at one moment; the rows of each table. Raises GiveUp."""
    rows: Counter[str] = Counter()
    tables = [name for [name] in _query(access, "SHOW TABLES")]
    tables.sort(key=lambda name: (name == MIGRATIONS_TABLE, name))
    with (
        access.options() as options,
        gzip.open(file, "wb", compresslevel=6) as out,
        tempfile.TemporaryFile() as errors,
    ):
        # One row is one line, so that rows can be counted, and all lines of a table are one transaction.
        command = [
            "mariadb-dump", options, "--single-transaction", "--quick", "--skip-extended-insert", "--no-autocommit",
            "--skip-lock-tables", "--hex-blob", "--no-tablespaces", "--default-character-set=utf8mb4", access.name, *tables,
        ]  # fmt: skip
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=errors) as dumping:
            assert dumping.stdout is not None
            for line in dumping.stdout:
                if line.startswith(b"CREATE TABLE `"):
                    rows.setdefault(line.split(b"`")[1].decode(), 0)
                elif insert := INSERT.match(line):
                    rows[insert[1].decode()] += 1
                out.write(line)
        if dumping.returncode:
            errors.seek(0)
            raise GiveUp(
                f"the database cannot be read: {errors.read().decode(errors='replace').strip()[-300:]}"
            )
    return dict(sorted(rows.items()))


def restore(arguments: Sequence[str]) -> int:
    """Bring a backup into an empty database, and see that everything is there."""
    words = list(arguments)
    identity = _value(words, "--identity")
    if len(words) != 1 or words[0].startswith("-"):
        raise GiveUp("say which: ./oido restore FILE [--identity PRIVATE-KEY-FILE]")
    manifest = bring_back(
        Path(words[0]),
        access_from(installed_environment()),
        folder=DATA,
        identity=Path(identity) if identity else None,
    )
    rows = sum(manifest["rows"].values())
    say(
        f"Restored as of {manifest['made_at']}: {len(manifest['rows'])} tables with {rows:,} rows, all of them counted."
    )
    say(
        f"Its settings are in {DATA / ENV_FILE}. Next: ./oido migrate, which does nothing where the version is the same."
    )
    return 0


def bring_back(file: Path, access: Access, *, folder: Path, identity: Path | None = None) -> dict:
    """Restore a backup into an empty database, its keys and settings into a folder; what its manifest says.

    Nothing is written before the file has proved whole. Raises GiveUp.
    """
    if not file.is_file():
        raise GiveUp(f"there is no {file}")
    with tempfile.TemporaryDirectory(prefix="oido-") as inside:
        work = Path(inside)
        if file.suffix == ".age":
            if identity is None:
                raise GiveUp(f"{file.name} is encrypted; add --identity and the file with the private key")
            plain = work / "plain.tar"
            _run(["age", "--decrypt", "--identity", str(identity), "--output", str(plain), str(file)])
        else:
            plain = file
        manifest = _unpacked(plain, work)
        if tables := _query(access, "SHOW TABLES"):
            raise GiveUp(
                f"the database {access.name} is not empty: it has {len(tables)} tables; restore into a new one"
            )
        with access.options() as options, gzip.open(work / DUMP, "rb") as sql:
            _run(["mariadb", options, "--default-character-set=utf8mb4", access.name], stdin=sql)
        for table, count in manifest["rows"].items():
            [[stored]] = _query(access, f"SELECT COUNT(*) FROM `{table}`")  # noqa: S608 - a name of our own dump
            if int(stored) != count:
                raise GiveUp(
                    f"{table} has {stored} rows, and should have {count}; this database must not be used"
                )
        folder.mkdir(parents=True, exist_ok=True)
        for name in (ENV_FILE, KEY_FILE):
            if (work / name).is_file() and not (folder / name).exists():
                shutil.copyfile(work / name, folder / name)
                (folder / name).chmod(0o600)
    return manifest


def _unpacked(plain: Path, work: Path) -> dict:
    try:
        with tarfile.open(plain) as tar:
            tar.extractall(work, filter="data")
        manifest: dict = json.loads((work / MANIFEST).read_text())
        hashes: dict[str, str] = manifest["sha256"]
    except (OSError, tarfile.TarError, ValueError, KeyError) as problem:
        raise GiveUp(f"this is no backup, or not a whole one: {problem}") from problem
    if manifest.get("format") != FORMAT:
        raise GiveUp(f"this backup is {manifest.get('format')}; this Oido reads {FORMAT}")
    for name, expected in hashes.items():
        if not (work / name).is_file() or _hash(work / name) != expected:
            raise GiveUp(f"{name} in this backup is damaged")
    return manifest


def _query(access: Access, sql: str) -> list[list[str]]:
    with access.options() as options:
        done = subprocess.run(
            ["mariadb", options, "--batch", "--skip-column-names", f"--execute={sql}", access.name],
            capture_output=True, check=False, text=True,
        )  # fmt: skip
    if done.returncode:
        raise GiveUp(f"the database {access.name} cannot be asked: {done.stderr.strip()[-300:]}")
    return [line.split("\t") for line in done.stdout.splitlines()]


def _run(command: Sequence[str], *, stdin: IO[bytes] | gzip.GzipFile | None = None) -> None:
    with subprocess.Popen(
        command, stdin=subprocess.PIPE if stdin else None, stderr=subprocess.PIPE
    ) as running:
        if stdin is not None:
            assert running.stdin is not None
            # One that ends before it has read everything says why below.
            with suppress(BrokenPipeError):
                shutil.copyfileobj(stdin, running.stdin, CHUNK)
            with suppress(BrokenPipeError):
                running.stdin.close()
        assert running.stderr is not None
        errors = running.stderr.read().decode(errors="replace")
    if running.returncode:
        raise GiveUp(f"{command[0]} failed: {errors.strip()[-300:]}")


def _hash(file: Path) -> str:
    with file.open("rb") as read:
        return hashlib.file_digest(read, "sha256").hexdigest()


def _version() -> str:
    """The commit of this code, where it is known."""
    done = subprocess.run(
        ["git", "describe", "--always", "--dirty"], cwd=ROOT, capture_output=True, text=True, check=False
    )
    return done.stdout.strip() or "unknown"
