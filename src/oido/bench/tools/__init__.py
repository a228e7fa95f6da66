"""The tools of the Bench: a form each, which says what the core is to do."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext_lazy as _

from oido.bench.tools.base import Tool
from oido.bench.tools.pedal import PedalTool
from oido.bench.tools.playing import PlayTool
from oido.bench.tools.pointer import CellTool, DragTool, WeighTool
from oido.bench.tools.shaping import (
    BarsTool,
    ChainTool,
    CleanTool,
    HandsTool,
    JoinTool,
    KeyTool,
    LanesTool,
    QuantiseTool,
    SectionTool,
    SignatureTool,
    StickingTool,
    StrengthTool,
)  # fmt: skip
from oido.bench.tools.signs import SignsTool
from oido.bench.tools.single import (
    DeleteTool,
    LengthTool,
    MoveTool,
    NoteTool,
    PasteTool,
    PickTool,
    PutTool,
    TextTool,
    TouchTool,
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Purpose:
    """What tools are for: a group in the strip."""

    name: Any
    tools: tuple[type[Tool], ...]


VERSION = "version"
"""Stored as what was done where a version that was saved before is put on the Bench again."""
STRIP = (
    Purpose(name=_("Pick"), tools=(PickTool, NoteTool, CleanTool)),
    Purpose(name=_("Timing"), tools=(QuantiseTool, MoveTool, LengthTool)),
    Purpose(name=_("Pitch"), tools=(KeyTool, ChainTool)),
    Purpose(name=_("Dynamics"), tools=(StrengthTool, PedalTool)),
    Purpose(name=_("Structure"), tools=(BarsTool, SectionTool, SignatureTool, JoinTool)),
    Purpose(name=_("Labels"), tools=(SignsTool, HandsTool, StickingTool, LanesTool)),
)
"""Tools whose figures are set on a leaf beside the music, in the order in which they stand."""
TOOLS: tuple[type[Tool], ...] = tuple(tool for purpose in STRIP for tool in purpose.tools)
BY_HAND: tuple[type[Tool], ...] = (
    TextTool, TouchTool, PutTool, PasteTool, DragTool, WeighTool, CellTool, PlayTool, DeleteTool,
)  # fmt: skip
"""Tools that are worked on the page itself: by pointer and keys, as text, in the grid, by playing."""
BY_SLUG: dict[str, type[Tool]] = {tool.slug: tool for tool in (*TOOLS, *BY_HAND)}
GONE = {"steps": _("Write steps"), VERSION: _("An earlier version")}
"""What is stored as done by something that is no tool here, or no more."""


def title_of(act: str | None) -> Any:
    """Return the title of an act for the undo button, or an empty string if there is nothing to undo."""
    if act is None:
        return ""
    tool = BY_SLUG.get(act)
    return tool.title if tool is not None else GONE.get(act, _("the last step"))
