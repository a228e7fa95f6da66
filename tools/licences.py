"""Write the list of libraries that come with Oido, and their licences: `docs/licences.md`.

    python tools/licences.py [--check]

From the lock files and from what each library says of itself.
"""

import sys
from importlib.metadata import metadata

from audit import ROOT, node_packages, python_pins

LIST = ROOT / "docs" / "licences.md"
HEAD = """# Licences

Oido is free software under the GNU General Public License, version 3 or later (`LICENSE`). These are the libraries that an installation
uses, with the licences that they name themselves. `tools/licences.py` writes this list from the lock files.

| library | version | licence |
|---|---|---|
"""
MAX_LENGTH = 60


def python_licence(name: str) -> str:
    """Return the licence that a library names: as an expression, else by its classifiers, else in its own words."""
    said = metadata(name)
    if expression := said.get("License-Expression"):
        return expression
    prefix = "License :: "
    classes = [each.split(" :: ")[-1] for each in said.get_all("Classifier") or [] if each.startswith(prefix)]
    return "; ".join(classes) or (said.get("License") or "").splitlines()[0][:MAX_LENGTH]


def rows() -> list[tuple[str, str, str]]:
    """Return name, version and licence of each library that serves pages, without those of tests and checks."""
    python = [
        (name, version, python_licence(name))
        for name, version, _ in python_pins(ROOT / "requirements" / "base.txt")
    ]
    node = [
        (name, package["version"], package.get("license", ""))
        for name, package in node_packages()
        if not package.get("dev") and not package.get("optional")
    ]
    return sorted({*python, *node}, key=lambda row: row[0].lower())


def main(arguments: list[str]) -> int:
    text = HEAD + "".join(f"| {name} | {version} | {licence} |\n" for name, version, licence in rows())
    if "--check" not in arguments:
        LIST.write_text(text)
        return 0
    if LIST.exists() and LIST.read_text() == text:
        return 0
    print("docs/licences.md is out of date; python tools/licences.py writes it")
    return 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
