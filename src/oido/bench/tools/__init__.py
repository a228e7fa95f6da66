"""The tools of the Bench: a form each, which says what the core is to do."""

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
    StepsTool, PickTool, NoteTool, MoveTool, LengthTool, QuantiseTool, StrengthTool, BarsTool, SectionTool, SignatureTool, KeyTool, ChainTool,
    HandsTool, StickingTool, LanesTool, PedalTool, JoinTool, CleanTool, DeleteTool,
)  # fmt: skip
BY_HAND: tuple[type[Tool], ...] = (TouchTool, PutTool, DragTool, WeighTool, CellTool, PlayTool)
"""Tools without a form on the page: pointer and keys work them."""
BY_SLUG: dict[str, type[Tool]] = {tool.slug: tool for tool in (*TOOLS, *BY_HAND)}
SEEN_FIRST = frozenset({"steps", "pick"})
"""Tools that lie open; the others open when they are wanted."""
