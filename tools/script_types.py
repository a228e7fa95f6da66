"""Writes the types of data that pages and server share, from Python's to those of the scripts: `./oido types`.

Pages and answers are typed dictionaries, bodies of requests are structs.

python tools/script_types.py [--check]
"""

import ast
import sys
import types
import typing
from datetime import datetime
from decimal import Decimal
from enum import Enum
from itertools import pairwise
from pathlib import Path
from types import ModuleType
from typing import Any, Literal, Union, get_args, get_origin
from uuid import UUID

import django
import msgspec

# Bodies name models.
django.setup()

from oido.common import page_data  # noqa: E402
from oido.stand import bodies  # noqa: E402

ROOT = Path(__file__).resolve().parents[1]
FILE = ROOT / "src" / "oido" / "page_data.d.ts"
MODULES = (page_data, bodies)
SOURCES = " and ".join(f"src/{module.__name__.replace('.', '/')}.py" for module in MODULES)
HEAD = f"/** Written by `./oido types` from {SOURCES}: change those, and run it again. */\n"
PLAIN = {
    int: "number", float: "number", str: "string", bool: "boolean", type(None): "null", Any: "unknown",
    datetime: "string", UUID: "string", Decimal: "number | string",
}  # fmt: skip


def script_type(kind: Any, aliases: dict[Any, str]) -> str:
    """Return a Python type as scripts have it. Raises ValueError for one that JSON does not have."""
    if kind in aliases:
        return aliases[kind]
    if kind in PLAIN:
        return PLAIN[kind]
    if typing.is_typeddict(kind):
        return str(kind.__name__)
    if isinstance(kind, type) and issubclass(kind, Enum):
        return " | ".join(f'"{member.value}"' for member in kind)
    origin, parts = get_origin(kind), get_args(kind)
    if origin in (Union, types.UnionType):
        return " | ".join(script_type(part, aliases) for part in parts)
    if origin is Literal:
        return " | ".join(f'"{part}"' for part in parts)
    if origin is tuple:
        return f"[{', '.join(script_type(part, aliases) for part in parts)}]"
    if origin is list:
        inner = script_type(parts[0], aliases)
        return f"({inner})[]" if " | " in inner else f"{inner}[]"
    if origin is dict:
        return f"Record<{script_type(parts[0], aliases)}, {script_type(parts[1], aliases)}>"
    raise ValueError(f"{kind!r} has no type in a script")


def comments(tree: ast.Module) -> dict[str, str]:
    """Return what stands below names: “Class”, “Class.field” or “ALIAS” with its words."""
    said: dict[str, str] = {}

    def below(body: list[ast.stmt], prefix: str) -> None:
        for one, following in pairwise(body):
            target = (
                one.target
                if isinstance(one, ast.AnnAssign)
                else one.targets[0]
                if isinstance(one, ast.Assign)
                else None
            )
            if (
                isinstance(target, ast.Name)
                and isinstance(following, ast.Expr)
                and isinstance(following.value, ast.Constant)
            ):
                said[prefix + target.id] = str(following.value.value)

    below(tree.body, "")
    for node in tree.body:
        if isinstance(node, ast.ClassDef):
            said[node.name] = ast.get_docstring(node) or ""
            below(node.body, f"{node.name}.")
    return said


def fields_of(kind: Any) -> dict[str, bool]:
    """Return the fields of a typed dictionary or a struct, and whether each may be left out."""
    if issubclass(kind, msgspec.Struct):
        return {field.name: not field.required for field in msgspec.structs.fields(kind)}
    return {name: name in kind.__optional_keys__ for name in kind.__annotations__}


def lines_of(module: ModuleType) -> list[str]:
    """Return the types of a module, in its order. Aliases count where they are of typed dictionaries."""
    tree = ast.parse(Path(str(module.__file__)).read_text())
    words = comments(tree)
    lines: list[str] = []
    aliases: dict[Any, str] = {}

    def describe(name: str, indent: str = "") -> None:
        if words.get(name):
            lines.append(f"{indent}/** {' '.join(words[name].split())} */")

    for node in tree.body:
        if module is page_data and isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            name = node.targets[0].id
            describe(name)
            lines.append(f"type {name} = {script_type(vars(module)[name], aliases)};\n")
            aliases[vars(module)[name]] = name
        elif isinstance(node, ast.ClassDef) and not issubclass(vars(module)[node.name], Exception):
            kind = vars(module)[node.name]
            # A typed dictionary does not know what it is made from.
            bases = [base.id for base in node.bases if isinstance(base, ast.Name) and base.id != "TypedDict"]
            own = [
                one.target.id
                for one in node.body
                if isinstance(one, ast.AnnAssign) and isinstance(one.target, ast.Name)
            ]
            hints, may_be_left_out = typing.get_type_hints(kind), fields_of(kind)
            describe(node.name)
            lines.append(f"interface {node.name}{f' extends {bases[0]}' if bases else ''} {{")
            for name in own:
                describe(f"{node.name}.{name}", "  ")
                lines.append(
                    f"  {name}{'?' if may_be_left_out[name] else ''}: {script_type(hints[name], aliases)};"
                )
            lines.append("}\n")
    return lines


def written() -> str:
    """Return the file as it has to be."""
    return "\n".join([HEAD, *(line for module in MODULES for line in lines_of(module))])


def main(words: list[str]) -> int:
    if "--check" in words:
        if FILE.read_text() == written():
            return 0
        print(
            f"{FILE.relative_to(ROOT)} is not what {SOURCES} say: run ./oido types",
            file=sys.stderr,
        )
        return 1
    FILE.write_text(written())
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
