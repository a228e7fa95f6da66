"""The order of packages and apps: the core imports nothing of the web application, and imports point one way."""

import ast
from pathlib import Path
from unittest import TestCase

SRC = Path(__file__).resolve().parents[2] / "src"
ALLOWED_IN_CORE = {"ear", "numpy", "mido", "verovio", "defusedxml", "msgspec"}
LAYERS = (
    {"text", "units", "numerals", "criterion", "error_texts", "errors", "note_place", "plain"},
    {"notes"},
    {"conventions"},
    {"reader"},
    {"matching", "patterns", "players", "staves"},
    {"free", "labels", "measuring"},
    {"editing", "notation"},
    {"words"},
    {"findings", "formats", "practice"},
    {"facts", "library"},
    {"criteria"},
    {"extraction"},
    {"judging"},
    {"assess", "drawing", "file_report", "progress"},
    {"recording", "report_json", "summary"},
    {"cli"},
)
"""Packages of the core from the lowest layer up; each may use those of lower layers."""
ORDER = [
    "common", "people", "audit", "jobs", "limits", "post", "access", "exercises", "booklets", "bench", "rubrics", "assignments", "takes", "operations", "roster",
    "marking", "feedback", "reports", "progress", "stand", "desk", "leaving", "gradebook", "classes", "opening", "home", "help", "demo",
]  # fmt: skip
"""Apps in order; each may use those before it."""


def imports(file: Path) -> set[str]:
    actual = set()
    for node in ast.walk(ast.parse(file.read_text())):
        if isinstance(node, ast.Import):
            actual |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            actual.add(node.module)
    return actual


class LayersTest(TestCase):
    def test_the_core_uses_nothing_but_itself_and_its_few_libraries(self) -> None:
        import sys

        for file in (SRC / "ear").rglob("*.py"):
            roots = {name.split(".")[0] for name in imports(file)}
            self.assertLessEqual(roots - ALLOWED_IN_CORE - set(sys.stdlib_module_names), set(), file)

    def test_packages_use_only_lower_layers(self) -> None:
        layer = {package: number for number, packages in enumerate(LAYERS) for package in packages}
        for file in (SRC / "ear").rglob("*.py"):
            parts = file.relative_to(SRC / "ear").with_suffix("").parts
            if parts == ("__init__",):
                continue
            used = {name.split(".")[1] for name in imports(file) if name.startswith("ear.")} - {parts[0]}
            above = {package for package in used if layer[package] >= layer[parts[0]]}
            if layer[parts[0]]:  # the lowest layer is one package in several files
                self.assertEqual(above, set(), f"{file} may use only layers below {parts[0]}")

    def test_apps_use_only_those_below_them(self) -> None:
        apps = {each.name for each in (SRC / "oido").iterdir() if (each / "__init__.py").exists()}
        self.assertEqual(apps - {"config"}, set(ORDER))
        for index, app in enumerate(ORDER):
            for file in (SRC / "oido" / app).rglob("*.py"):
                if "migrations" in file.parts:
                    continue
                for name in imports(file):
                    parts = name.split(".")
                    if parts[0] == "oido" and parts[1] in ORDER:
                        self.assertLessEqual(ORDER.index(parts[1]), index, f"{file}: {name}")
