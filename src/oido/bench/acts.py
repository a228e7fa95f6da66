"""What is done on the page of music by one key or one word: told to the page once, and listed from here."""

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

CAPS = {
    "Control": _("Ctrl"), "Shift": _("Shift"), "Alt": _("Alt"), "Delete": _("Del"), "Enter": _("Enter"), "Escape": _("Esc"),
    "ArrowUp": "↑", "ArrowDown": "↓", "ArrowLeft": "←", "ArrowRight": "→", "Plus": "+", "-": "−",
}  # fmt: skip
"""What stands on keys."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchCommand:
    """Something to be done, with its keys as `aria-keyshortcuts` writes them."""

    slug: str
    words: Any
    """What it does, in the list of keys."""
    keys: str
    name: Any = ""
    """The word on the page, where there is one."""
    tool: str = ""
    """The tool without which it cannot be done here."""
    is_for_notes: bool = False
    """Is it of use only while notes are picked?"""

    @property
    def caps(self) -> list[Any]:
        return [CAPS.get(key, key) for key in self.keys.split(" ")[0].split("+")]


ACTS = (
    BenchCommand(slug="next", words=_("go to the next note"), keys="ArrowRight"),
    BenchCommand(slug="before", words=_("go to the note before"), keys="ArrowLeft"),
    BenchCommand(
        slug="bars", is_for_notes=True, words=_("pick the whole bar"), keys="B", name=_("whole bar")
    ),
    BenchCommand(
        slug="alike",
        is_for_notes=True,
        words=_("pick the whole hand or lane"),
        keys="L",
        name=_("hand or lane"),
    ),
    BenchCommand(
        slug="all", words=_("pick all notes"), keys="Control+A", name=pgettext_lazy("button", "all")
    ),
    BenchCommand(slug="none", words=_("pick nothing"), keys="Escape"),
    BenchCommand(
        slug="earlier",
        is_for_notes=True,
        words=_("earlier"),
        keys="Shift+ArrowLeft",
        name=_("earlier"),
        tool="move",
    ),
    BenchCommand(
        slug="later",
        is_for_notes=True,
        words=_("later"),
        keys="Shift+ArrowRight",
        name=_("later"),
        tool="move",
    ),
    BenchCommand(
        slug="higher", is_for_notes=True, words=_("higher"), keys="ArrowUp", name=_("higher"), tool="move"
    ),
    BenchCommand(
        slug="lower", is_for_notes=True, words=_("lower"), keys="ArrowDown", name=_("lower"), tool="move"
    ),
    BenchCommand(slug="octave-up", words=_("an octave up"), keys="Shift+ArrowUp", tool="move"),
    BenchCommand(slug="octave-down", words=_("an octave down"), keys="Shift+ArrowDown", tool="move"),
    BenchCommand(
        slug="shorter",
        is_for_notes=True,
        words=_("shorter"),
        keys="Alt+ArrowLeft",
        name=_("shorter"),
        tool="length",
    ),
    BenchCommand(
        slug="longer",
        is_for_notes=True,
        words=_("longer"),
        keys="Alt+ArrowRight",
        name=_("longer"),
        tool="length",
    ),
    BenchCommand(
        slug="softer", is_for_notes=True, words=_("softer"), keys="-", name=_("softer"), tool="velocity"
    ),
    BenchCommand(
        slug="louder", is_for_notes=True, words=_("louder"), keys="Plus", name=_("louder"), tool="velocity"
    ),
    BenchCommand(
        slug="even",
        is_for_notes=True,
        words=_("make them all equally loud"),
        keys="=",
        name=_("even"),
        tool="velocity",
    ),
    BenchCommand(
        slug="copy",
        is_for_notes=True,
        words=pgettext_lazy("button", "copy"),
        keys="Control+C",
        name=pgettext_lazy("button", "copy"),
        tool="paste",
    ),
    BenchCommand(slug="cut", words=_("copy and delete"), keys="Control+X", tool="paste"),
    BenchCommand(
        slug="paste", words=_("paste at the cursor"), keys="Control+V", name=_("paste"), tool="paste"
    ),
    BenchCommand(
        slug="delete",
        is_for_notes=True,
        words=pgettext_lazy("button", "delete"),
        keys="Delete Backspace",
        name=pgettext_lazy("button", "delete"),
        tool="delete",
    ),
    BenchCommand(
        slug="figures",
        is_for_notes=True,
        words=_("show a note’s figures"),
        keys="Enter",
        name=_("figures"),
        tool="note",
    ),
    BenchCommand(
        slug="place-before", words=_("move the cursor a step earlier"), keys="Control+ArrowLeft", tool="put"
    ),
    BenchCommand(
        slug="place-next", words=_("move the cursor a step later"), keys="Control+ArrowRight", tool="put"
    ),
    BenchCommand(slug="put", words=_("add a note at the cursor"), keys="N", tool="put"),
    BenchCommand(slug="hear", words=_("hear the bar"), keys="H", name=pgettext_lazy("button", "hear")),
    BenchCommand(slug="to-tools", words=_("go to the tools"), keys="T"),
    BenchCommand(slug="to-text", words=_("go to the text"), keys="W", tool="text"),
    BenchCommand(slug="undo", words=_("undo"), keys="Control+Z"),
    BenchCommand(slug="redo", words=_("redo"), keys="Control+Shift+Z"),
    BenchCommand(slug="list-keys", words=_("show this list"), keys="?", name=pgettext_lazy("button", "keys")),
)


def acts_with(tools: Collection[str]) -> list[BenchCommand]:
    """Return the acts that these tools offer, by slug."""
    return [act for act in ACTS if not act.tool or act.tool in tools]
