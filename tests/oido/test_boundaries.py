"""Who may refer to whom: not only imports, but addresses, templates, tags, styles and scripts point one way."""

import ast
import posixpath
import re
from collections.abc import Iterator
from graphlib import TopologicalSorter
from pathlib import Path

from django.apps import apps
from django.template import engines
from django.test import SimpleTestCase

from oido.common.doors import answered_names, check_doors, doors_of
from oido.common.static import ModuleStorage
from tests.ear.test_layers import ORDER, SRC

APPS = SRC / "oido"
URL = re.compile(r"""\{%\s*url\s+['"]([\w-]+)['"]""")
REVERSE = re.compile(r"""\b(?:reverse|reverse_lazy|redirect|resolve_url)\(\s*['"]([\w-]+)['"]""")
INCLUDED = re.compile(r"""\{%\s*(?:include|extends)\s+['"]([^'"]+)['"]""")
RENDERED = re.compile(r"""\brender(?:_to_string)?\(\s*(?:request,\s*)?['"]([\w/]+\.html)['"]""")
LOADED = re.compile(r"\{%\s*load\s+([\w ]+?)\s*%\}")
STATIC = re.compile(r"""\{%\s*static\s+['"](\w+)/""")
NEEDED = re.compile(r"""(?:from\s*|import\s*\(?\s*)["'](\.[^"']+)["']""")
"""Modules that a script names, those of which it needs but a type included."""
IMPORTED = re.compile(r"""(?:from|import\()\s*["']([^"']+)["']""")


def rank(app: str) -> int:
    return ORDER.index(app)


class Boundaries:
    """What every app may refer to."""

    def __init__(self) -> None:
        self.app_of_address = {name: module.split(".")[1] for name, module in answered_names()}
        self.doors = {app: set(doors_of(apps.get_app_config(app))) for app in ORDER}
        self.templates = {
            str(file.relative_to(APPS / app / "templates")): app
            for app in ORDER
            for file in (APPS / app / "templates").rglob("*.html")
        }
        self.tags = {
            file.stem: app for app in ORDER for file in (APPS / app / "templatetags").glob("[a-z]*.py")
        }

    def may_lead_to(self, app: str, name: str) -> bool:
        owner = self.app_of_address.get(name, "config")
        if owner == "config" or rank(owner) <= rank(app):
            return True
        return any(name in self.doors[below] for below in ORDER[: rank(app) + 1])

    def wrong_in(self, app: str, file: Path) -> Iterator[str]:
        text = file.read_text()
        if file.suffix == ".html":
            yield from (name for name in URL.findall(text) if not self.may_lead_to(app, name))
            parts = [self.templates.get(name) for name in INCLUDED.findall(text)]
            parts += [self.tags.get(tag) for tags in LOADED.findall(text) for tag in tags.split()]
            parts += [owner for owner in STATIC.findall(text) if owner in ORDER]
        elif file.suffix == ".py":
            yield from (name for name in REVERSE.findall(text) if not self.may_lead_to(app, name))
            parts = [self.templates.get(name) for name in RENDERED.findall(text)]
        else:
            folder = file.parent.relative_to(APPS / app / "static")
            paths = [(folder / name) for name in IMPORTED.findall(text) if name.startswith(".")]
            parts = [Path(*_plain(path)).parts[0] for path in paths]
        yield from (owner for owner in parts if owner in ORDER and rank(owner) > rank(app))


def _plain(path: Path) -> list[str]:
    """The parts of a path without “..”."""
    parts: list[str] = []
    for part in path.parts:
        parts = parts[:-1] if part == ".." else [*parts, part]
    return parts


class BoundariesTest(SimpleTestCase):
    def test_nothing_refers_to_an_app_above(self) -> None:
        boundaries = Boundaries()
        read, wrong = 0, []
        for app in ORDER:
            for file in (APPS / app).rglob("*"):
                if file.suffix in {".html", ".py", ".js"} and not {"migrations", "vendor", "worklet"} & set(
                    file.parts
                ):
                    read += 1
                    wrong += [f"{file.relative_to(APPS)}: {what}" for what in boundaries.wrong_in(app, file)]
        self.assertGreater(read, 600)
        self.assertEqual(wrong, [])

    def test_every_door_is_needed_and_leads_upwards(self) -> None:
        boundaries = Boundaries()
        self.assertEqual(check_doors(None), [])
        for app in ORDER:
            files = [file for file in (APPS / app).rglob("*") if file.suffix in {".html", ".py"}]
            text = "\n".join(file.read_text() for file in files)
            used = {*URL.findall(text), *REVERSE.findall(text)}
            for door in boundaries.doors[app]:
                with self.subTest(app=app, door=door):
                    self.assertIn(door, used)
                    self.assertGreater(rank(boundaries.app_of_address[door]), rank(app))

    def test_a_wrong_reference_is_seen(self) -> None:
        boundaries = Boundaries()
        self.assertFalse(boundaries.may_lead_to("exercises", "watch"))
        self.assertTrue(boundaries.may_lead_to("desk", "watch"))
        self.assertEqual(_plain(Path("stand/js/sources/../../../common/js/a.js"))[0], "common")
        self.assertTrue(engines["django"].from_string("{% load oido %}"))


class ModulesTest(SimpleTestCase):
    def test_no_script_needs_itself_not_even_for_a_type(self) -> None:
        """Hashed names are made from the leaves up, and a name in a comment counts: a circle has no leaf."""
        needs = {}
        for app in ORDER:
            folder = APPS / app / "static"
            for file in folder.rglob("*.js"):
                if "vendor" not in file.parts:
                    found = NEEDED.findall(file.read_text())
                    needs[str(file.relative_to(folder))] = {
                        posixpath.normpath(f"{file.relative_to(folder).parent}/{name}") for name in found
                    }
        self.assertGreater(len(needs), 60)
        in_order = list(TopologicalSorter(needs).static_order())
        height: dict[str, int] = {}
        for name in in_order:
            height[name] = 1 + max((height[below] for below in needs.get(name, ())), default=0)
        self.assertLess(max(height.values()), ModuleStorage.max_post_process_passes)


class LockedRowsTest(SimpleTestCase):
    """Tests run in a transaction of their own, which would hide that a service has none."""

    WITHIN = frozenset({
        "count_or_propose", "locked_to_mark", "measure_now", "require_room_for_people", "store", "use_up",
    })  # fmt: skip
    """Called from services that have begun one; so are private functions."""

    def test_whoever_locks_a_row_is_in_a_transaction(self) -> None:
        wrong = []
        for file in APPS.rglob("*.py"):
            for function in ast.walk(ast.parse(file.read_text())):
                if not isinstance(function, ast.FunctionDef) or function.name.startswith("_"):
                    continue
                text = ast.unparse(function)
                if "select_for_update()" in text and "transaction.atomic" not in text:
                    wrong.append(function.name)
        self.assertEqual(sorted(set(wrong)), sorted(self.WITHIN))
