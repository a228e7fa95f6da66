"""The processes that Oido is made of: Django's commands, server and workers, and what they are told."""

import os
import secrets
import socket
import subprocess
import tempfile
import urllib.error
import urllib.request
from collections.abc import Sequence
from typing import Any

from launch.database import Database
from launch.places import DATA, PYTHON, ROOT
from launch.say import GiveUp, patiently

ANSWER_SECONDS = 30
WORKERS, THREADS = 2, 4
GUNICORN_CONFIG = "--config=python:oido.config.gunicorn"
COLLECT_STATIC = ["collectstatic", "--no-input", "--verbosity=0", "--ignore=ext"]
"""Without extensions of htmx that nothing here uses."""


def secret_keys() -> list[str]:
    """Return the secret key of this installation, and after it the old ones that still count."""
    file = DATA / "secret-key"
    if not file.exists():
        write_secret_keys([secrets.token_urlsafe(48)])
    return file.read_text().split()


def write_secret_keys(keys: Sequence[str]) -> None:
    """Store the keys, whole or not at all, for nobody else to read."""
    DATA.mkdir(parents=True, exist_ok=True)
    fresh = DATA / "secret-key.new"
    fresh.unlink(missing_ok=True)
    fresh.touch(mode=0o600)
    fresh.write_text("\n".join(keys))
    fresh.replace(DATA / "secret-key")


def own_environment() -> dict[str, str]:
    """Return the environment for processes of Oido. What is set goes before what is made here."""
    env = {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "oido.config.settings",
        "OPENBLAS_NUM_THREADS": "1",
    }
    if not env.get("OIDO_SECRET_KEY"):
        env["OIDO_SECRET_KEY"], *old = secret_keys()
        env["OIDO_OLD_SECRET_KEYS"] = ",".join(old)
    return env


def environment(database: Database, **more: str) -> dict[str, str]:
    """Return the environment for processes that use a database of this machine."""
    return {**own_environment(), **database.environment(), **more}


def manage(arguments: Sequence[str], env: dict[str, str], *, quiet: bool = False) -> str:
    """Run one of Django's commands; what it printed, if it was to be quiet. Raises GiveUp."""
    done = subprocess.run(
        [str(PYTHON), str(ROOT / "src" / "manage.py"), *arguments],
        env=env, cwd=ROOT, check=False, text=True,
        stdout=subprocess.PIPE if quiet else None, stderr=subprocess.STDOUT if quiet else None,
    )  # fmt: skip
    if done.returncode:
        raise GiveUp(f"`manage.py {arguments[0]}` failed:\n{done.stdout or ''}".rstrip())
    return done.stdout or ""


def work_in_background(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """A worker for what is done in the background, beside the server."""
    return _beside("work", env)


def schedule(env: dict[str, str]) -> subprocess.Popen[bytes]:
    """The scheduler, which begins what falls due."""
    return _beside("schedule", env)


def _beside(command: str, env: dict[str, str]) -> subprocess.Popen[bytes]:
    return subprocess.Popen(
        [str(PYTHON), "src/manage.py", command], env=env, cwd=ROOT, start_new_session=True
    )


def counted(env: dict[str, str]) -> dict[str, str]:
    """Return an environment in which the processes of a server add up what they count, from nothing."""
    return {**env, "PROMETHEUS_MULTIPROC_DIR": tempfile.mkdtemp(prefix="oido-counts-")}


def serve(listener: socket.socket, env: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start the server on a socket that is open already."""
    return subprocess.Popen(
        [
            str(PYTHON), "-m", "gunicorn", GUNICORN_CONFIG, "oido.config.wsgi", f"--bind=fd://{listener.fileno()}",
            f"--workers={WORKERS}", f"--threads={THREADS}", "--forwarded-allow-ips=", "--log-level=warning", "--preload",
        ],
        env=counted(env), cwd=ROOT, start_new_session=True, pass_fds=(listener.fileno(),),
    )  # fmt: skip


def end(server: subprocess.Popen[bytes]) -> None:
    if server.poll() is None:
        server.terminate()
        try:
            server.wait(10)
        except subprocess.TimeoutExpired:
            server.kill()


def interrupt(_signal: int, _frame: Any) -> None:
    raise KeyboardInterrupt


def wait_until_ready(server: subprocess.Popen[bytes], port: int) -> None:
    """As long as the server lives: a busy machine takes minutes. Raises GiveUp where it ends, or answers with an error."""
    for _ in patiently("the server is starting"):
        if server.poll() is not None:
            raise GiveUp("the server stopped at once; what it printed above says why")
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=ANSWER_SECONDS):
                return
        except urllib.error.HTTPError as answer:
            raise GiveUp(
                f"the server answers with error {answer.code}; what it printed above says why"
            ) from answer
        except OSError:
            continue
