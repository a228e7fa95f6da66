"""The commands of an installation that serves a school: each is one process, for whatever supervises processes there."""

import os
import secrets
from collections.abc import Sequence
from pathlib import Path

from launch import install
from launch.database import Database
from launch.places import DATA, PYTHON, ROOT
from launch.processes import (
    COLLECT_STATIC,
    GUNICORN_CONFIG,
    THREADS,
    WORKERS,
    counted,
    manage,
    own_environment,
    secret_keys,
    write_secret_keys,
)
from launch.say import GiveUp, say, step
from launch.starting import DEFAULT_DB_PORT, number_from_environment

SETTINGS = ROOT / ".env"
"""Settings of this installation; what the process's environment says goes before them."""
MAX_OLD_KEYS = 3
REQUEST_S, GRACE_S = 120, 30


def read_settings(file: Path = SETTINGS) -> dict[str, str]:
    """Return the variables of a file of NAME=value lines; there may be comments and quotes. Raises GiveUp."""
    if not file.exists():
        return {}
    values = {}
    for number, line in enumerate(file.read_text().splitlines(), start=1):
        text = line.strip()
        if not text or text.startswith("#"):
            continue
        name, equals, value = text.partition("=")
        if not equals or not name.strip().isidentifier():
            raise GiveUp(f"{file.name}, line {number}: NAME=value is expected, not {text!r}")
        value = value.strip()
        is_quoted = len(value) >= 2 and value[0] == value[-1] and value[0] in "\"'"
        values[name.strip()] = value[1:-1] if is_quoted else value
    return values


def installed_environment() -> dict[str, str]:
    """Return the environment of this installation: what is set, and after it what `.env` says. Raises GiveUp."""
    for name, value in read_settings().items():
        os.environ.setdefault(name, value)
    env = own_environment()
    brought = Database(folder=DATA, port=number_from_environment("OIDO_DB_PORT", DEFAULT_DB_PORT))
    if not env.get("OIDO_DB_PASSWORD") and not env.get("OIDO_DB_HOST") and brought.has_password:
        # What `./oido start` brings.
        env |= brought.environment()
    return env


def _become(words: Sequence[str], env: dict[str, str]) -> int:
    """Become another program, so that signals reach it and its end is this one's."""
    if not PYTHON.exists():
        raise GiveUp("nothing is installed here yet; ./oido install does it")
    os.chdir(ROOT)
    os.execve(str(PYTHON), [str(PYTHON), *words], env)  # noqa: S606


def serve(arguments: Sequence[str]) -> int:
    """Serve pages, on the address and port that are set."""
    env = installed_environment()
    where = f"{os.environ.get('OIDO_LISTEN') or '127.0.0.1'}:{number_from_environment('OIDO_PORT', 8000)}"
    return _become(
        [
            "-m", "gunicorn", GUNICORN_CONFIG, "oido.config.wsgi", f"--bind={where}",
            f"--workers={number_from_environment('OIDO_WORKERS', WORKERS)}",
            f"--threads={number_from_environment('OIDO_THREADS', THREADS)}",
            # Whom proxies speak for is decided in the application, by OIDO_PROXIES alone.
            "--forwarded-allow-ips=", f"--timeout={REQUEST_S}", f"--graceful-timeout={GRACE_S}",
            "--log-level=warning", "--preload",
        ],
        counted(env),
    )  # fmt: skip


def work(arguments: Sequence[str]) -> int:
    """Do what waits in the background."""
    return _become(["src/manage.py", "work"], installed_environment())


def schedule(arguments: Sequence[str]) -> int:
    """Begin what falls due."""
    return _become(["src/manage.py", "schedule"], installed_environment())


def run_manage(arguments: Sequence[str]) -> int:
    """One of Django's commands, with the settings of this installation."""
    return _become(["src/manage.py", *arguments], installed_environment())


def doctor(arguments: Sequence[str]) -> int:
    """Say what is wrong with this installation, and what to do."""
    return run_manage(["doctor"])


def migrate(arguments: Sequence[str]) -> int:
    return run_manage(["migrate", "--no-input"])


def install_all(arguments: Sequence[str]) -> int:
    """Install everything that serving takes, make the secret key if there is none, gather static files."""
    env = installed_environment()
    install.debian_packages(install.SERVE_PACKAGES)
    install.virtualenv(with_dev=False)
    install.node_libraries()
    install.assets()
    with step("static files"):
        manage([*COLLECT_STATIC, "--clear"], env, quiet=True)
    say("Installed. Next: ./oido migrate, then ./oido serve, ./oido work and ./oido schedule.")
    return 0


def rotate_key(arguments: Sequence[str]) -> int:
    """Put a new secret key before the old ones: sessions, links in letters and codes on slips that these made still count,
    until the key has been rotated some times more."""
    installed_environment()
    if os.environ.get("OIDO_SECRET_KEY"):
        raise GiveUp(
            "the secret key is set by OIDO_SECRET_KEY: set a new one there, and put the old one first in OIDO_OLD_SECRET_KEYS"
        )
    write_secret_keys([secrets.token_urlsafe(48), *secret_keys()][: 1 + MAX_OLD_KEYS])
    say(
        "There is a new secret key. Restart the server, the workers and the scheduler. "
        f"What the last {MAX_OLD_KEYS} keys signed still counts; rotate again to end that."
    )
    return 0
