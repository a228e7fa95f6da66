"""The house keeps its order: the core stands alone, imports point one way."""

import ast
from pathlib import Path
from unittest import TestCase

SRC = Path(__file__).resolve().parents[2] / "src"
ALLOWED_IN_CORE = {"ear", "numpy", "mido", "verovio", "defusedxml", "msgspec"}
ORDER = ["common", "people", "exercises", "bench", "rubrics", "assignments", "takes", "marking", "demo"]
"""Apps from the ground up; each may use those before it. `demo.accounts` is plain data."""
PLAIN_DATA = {"oido.demo.accounts"}


def imports(file: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


class HouseTest(TestCase):
    def test_the_core_uses_nothing_but_itself_and_its_few_libraries(self) -> None:
        import sys

        for file in (SRC / "ear").rglob("*.py"):
            roots = {name.split(".")[0] for name in imports(file)}
            self.assertLessEqual(roots - ALLOWED_IN_CORE - set(sys.stdlib_module_names), set(), file)

    def test_apps_use_only_those_below_them(self) -> None:
        for index, app in enumerate(ORDER):
            for file in (SRC / "oido" / app).rglob("*.py"):
                if "migrations" in file.parts:
                    continue
                for name in imports(file) - PLAIN_DATA:
                    parts = name.split(".")
                    if (
                        parts[0] == "oido"
                        and parts[1] in ORDER
                        and not (app == "exercises" and file.parent.name == "views")
                    ):
                        self.assertLessEqual(ORDER.index(parts[1]), index, f"{file}: {name}")
