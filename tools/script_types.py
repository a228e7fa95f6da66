"""Writes the types of data that pages and server share, from Python's to those of the scripts: `./oido types`.

python tools/script_types.py [--check]
"""

import ast
import sys
import types
import typing
from itertools import pairwise
from pathlib import Path
from typing import Any, Literal, Union, get_args, get_origin

from oido.common import page_data

ROOT = Path(__file__).resolve().parents[1]
FILE = ROOT / "src" / "oido" / "page_data.d.ts"
HEAD = "/** Written by `./oido types` from src/oido/common/page_data.py: change that, and run it again. */\n"
PLAIN = {int: "number", float: "number", str: "string", bool: "boolean", type(None): "null"}


def script_type(kind: Any, aliases: dict[Any, str]) -> str:
    """Return a Python type as scripts have it. Raises ValueError for one that JSON does not have."""
    if kind in aliases:
        return aliases[kind]
    if kind in PLAIN:
        return PLAIN[kind]
    if typing.is_typeddict(kind):
        return str(kind.__name__)
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


def written() -> str:
    """Return the file as it has to be."""
    tree = ast.parse(Path(page_data.__file__).read_text())
    said = comments(tree)
    lines = [HEAD]
    aliases: dict[Any, str] = {}

    def tell(name: str, indent: str = "") -> None:
        if said.get(name):
            lines.append(f"{indent}/** {' '.join(said[name].split())} */")

    for node in tree.body:
        if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name):
            name = node.targets[0].id
            tell(name)
            lines.append(f"type {name} = {script_type(vars(page_data)[name], aliases)};\n")
            aliases[vars(page_data)[name]] = name
        elif isinstance(node, ast.ClassDef):
            kind = vars(page_data)[node.name]
            bases = [base.id for base in node.bases if isinstance(base, ast.Name) and base.id != "TypedDict"]
            tell(node.name)
            lines.append(f"interface {node.name}{f' extends {bases[0]}' if bases else ''} {{")
            for field in node.body:
                if isinstance(field, ast.AnnAssign) and isinstance(field.target, ast.Name):
                    name = field.target.id
                    shape = typing.get_type_hints(kind)[name]
                    tell(f"{node.name}.{name}", "  ")
                    lines.append(
                        f"  {name}{'?' if name in kind.__optional_keys__ else ''}: {script_type(shape, aliases)};"
                    )
            lines.append("}\n")
    return "\n".join(lines)


def main(words: list[str]) -> int:
    if "--check" in words:
        if FILE.read_text() == written():
            return 0
        print(
            f"{FILE.relative_to(ROOT)} is not what src/oido/common/page_data.py says: run ./oido types",
            file=sys.stderr,
        )
        return 1
    FILE.write_text(written())
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
