"""How much of a long step is done, from what it has written so far: each gives a share from 0 to 1."""

import re
from collections.abc import Callable, Iterable
from pathlib import Path

Share = Callable[[], float]
DEBIAN_PERCENT = re.compile(r"^(dlstatus|pmstatus):[^:]*:([\d.]+):", re.MULTILINE)
"""What apt writes with `APT::Status-Fd`: of the download, then of the installation."""
COUNTED = re.compile(r"^(\d+) of (\d+)$", re.MULTILINE)
HASHED = re.compile(r"\.[0-9a-f]{12}(\.|$)")
COMPRESSED = (".gz", ".br")
FURTHER_FILES = 5
"""Of each static file: one under its hashed name, and two compressed ones of both."""


def _text(file: Path) -> str:
    try:
        return file.read_text(errors="replace")
    except OSError:
        return ""


def lines_share(file: Path, pattern: str, total: int) -> Share:
    """Lines of a log that match, of as many as there will be."""
    line = re.compile(pattern, re.MULTILINE)
    return lambda: min(1.0, len(line.findall(_text(file))) / max(total, 1))


def counted_share(file: Path) -> Share:
    """The last “3 of 12” of a log."""

    def share() -> float:
        counts = COUNTED.findall(_text(file))
        return int(counts[-1][0]) / max(int(counts[-1][1]), 1) if counts else 0.0

    return share


def debian_share(file: Path) -> Share:
    """Download and installation by apt, half each."""

    def share() -> float:
        percents = dict(DEBIAN_PERCENT.findall(_text(file)))
        if "pmstatus" in percents:
            return 0.5 + float(percents["pmstatus"]) / 200
        return float(percents.get("dlstatus", 0)) / 200

    return share


def static_share(folder: Path) -> Share:
    """Files that were made from the static files gathered in a folder."""

    def share() -> float:
        names = [path.name for path in folder.rglob("*") if path.is_file()]
        made = sum(name.endswith(COMPRESSED) or HASHED.search(name) is not None for name in names)
        return min(1.0, made / max(FURTHER_FILES * (len(names) - made), 1))

    return share


def migrations_share(file: Path, migrations: Iterable[Path]) -> Share:
    """Migrations that were applied, of these."""
    wanted = [path for path in migrations if path.stem != "__init__"]
    labels = "|".join(sorted({path.parents[1].name for path in wanted}))
    return lines_share(file, rf"^  Applying (?:{labels})\.", len(wanted))
