"""The processes that Oido is made of: Django's commands, server and workers, and what they are told."""

import os
import secrets
import socket
import subprocess
import urllib.error
import urllib.request
from collections.abc import Sequence
from typing import Any

from launch.database import Database
from launch.places import DATA, PYTHON, ROOT
from launch.say import GiveUp, patiently

ANSWER_SECONDS = 30
WORKERS, THREADS = 2, 4
COLLECT_STATIC = ["collectstatic", "--no-input", "--verbosity=0", "--ignore=ext"]
"""Without extensions of htmx that nothing here uses."""


def _secret_key() -> str:
    file = DATA / "secret-key"
    if not file.exists():
        DATA.mkdir(parents=True, exist_ok=True)
        file.touch(mode=0o600)
        file.write_text(secrets.token_urlsafe(48))
    return file.read_text()


def environment(database: Database, **more: str) -> dict[str, str]:
    return {
        **os.environ,
        "PYTHONPATH": str(ROOT / "src"),
        "DJANGO_SETTINGS_MODULE": "oido.config.settings",
        "OPENBLAS_NUM_THREADS": "1",
        "OIDO_SECRET_KEY": _secret_key(),
        **database.environment(),
        **more,
    }


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
    return subprocess.Popen([str(PYTHON), "src/manage.py", "work"], env=env, cwd=ROOT, start_new_session=True)


def serve(listener: socket.socket, env: dict[str, str]) -> subprocess.Popen[bytes]:
    """Start the server on a socket that is open already."""
    return subprocess.Popen(
        [
            str(PYTHON), "-m", "gunicorn", "oido.config.wsgi", f"--bind=fd://{listener.fileno()}",
            f"--workers={WORKERS}", f"--threads={THREADS}", "--log-level=warning", "--preload",
        ],
        env=env, cwd=ROOT, start_new_session=True, pass_fds=(listener.fileno(),),
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
