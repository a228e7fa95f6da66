"""Where things are, all below the project's folder."""

import hashlib
import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
DATA = Path(os.environ.get("OIDO_DATA") or ROOT / ".data").resolve()
"""Databases and keys. Another folder is another installation of the same code."""
BUILD = ROOT / "build"
ASSETS = BUILD / "assets"
REQUIREMENTS = ROOT / "requirements"


def digest(*files: Path) -> str:
    """One hash for the contents of some files; a change of any changes it."""
    whole = hashlib.sha256()
    for file in files:
        whole.update(file.name.encode() + b"\0" + file.read_bytes())
    return whole.hexdigest()


def is_done(stamp: Path, state: str) -> bool:
    return stamp.is_file() and stamp.read_text() == state


def mark_done(stamp: Path, state: str) -> None:
    stamp.parent.mkdir(parents=True, exist_ok=True)
    stamp.write_text(state)
