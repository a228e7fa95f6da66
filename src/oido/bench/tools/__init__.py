"""The tools of the Bench: a form each, which says what the core is to do."""

from ear.editing.edited import Selection
from ear.notes import Part
from oido.bench.tools.base import Tool
from oido.bench.tools.shaping import (
    BarsTool,
    ChainTool,
    CleanTool,
    HandsTool,
    KeyTool,
    QuantiseTool,
    StrengthTool,
)  # fmt: skip
from oido.bench.tools.single import (
    DeleteTool,
    LengthTool,
    MoveTool,
    NoteTool,
    PickTool,
    PutTool,
    StepsTool,
    TouchTool,
)  # fmt: skip

TOOLS: tuple[type[Tool], ...] = (
    StepsTool, PickTool, NoteTool, MoveTool, LengthTool, QuantiseTool, StrengthTool, BarsTool, KeyTool, ChainTool,
    HandsTool, CleanTool, DeleteTool,
)  # fmt: skip
BY_SLUG: dict[str, type[Tool]] = {tool.slug: tool for tool in (*TOOLS, TouchTool, PutTool)}
SEEN_FIRST = frozenset({"steps", "pick"})
"""Tools that lie open; the others open when they are wanted."""


def tools_for(part: Part, selected: Selection) -> list[Tool]:
    return [tool(part=part, selected=selected) for tool in TOOLS if part.kind in tool.kinds]
