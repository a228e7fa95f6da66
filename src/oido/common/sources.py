"""The table of what a take can come from. The choice of the Stand and of the Bench, the forms of what is sent, and what
counts for dynamics read it; how a page listens to each stands in the scripts' table, `common/js/playing/sources.js`."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from django.conf import settings
from django.db import models
from django.utils.translation import gettext_lazy as _

from ear.findings.kind import PlayedOn
from ear.notes import Kind


class Source(models.TextChoices):
    MIDI = "midi", _("MIDI device")
    TYPING = "typing", _("typing keys")
    SCREEN = "screen", _("on-screen keys")
    ROBOT = "robot", _("robot player")
    FILE = "file", _("recorded elsewhere")
    NONE = "none", _("answers, nothing recorded")

    @property
    def row(self) -> "SourceRow":
        return SOURCES[self]


@dataclass(frozen=True, slots=True, kw_only=True)
class SourceRow:
    has_touch: bool = True
    """Does each note have a velocity of its own, unasked?"""
    is_played: bool = True
    """Is it played on a page, and not taken from a file?"""
    is_for_demo: bool = False
    """Is it there only in a demo school?"""
    played_on: Mapping[Kind, PlayedOn] = field(
        default_factory=lambda: {Kind.KEYBOARD: PlayedOn.KEYS, Kind.DRUMS: PlayedOn.PADS}
    )
    """What advice to a student speaks of, by the kind of part."""


SOURCES = {
    Source.MIDI: SourceRow(),
    Source.TYPING: SourceRow(has_touch=False, played_on=dict.fromkeys(Kind, PlayedOn.TYPING)),
    Source.SCREEN: SourceRow(has_touch=False, played_on=dict.fromkeys(Kind, PlayedOn.SCREEN)),
    Source.ROBOT: SourceRow(is_for_demo=True),
    Source.FILE: SourceRow(is_played=False),
    Source.NONE: SourceRow(is_played=False),
}


def played_here() -> list[Source]:
    """Return the input sources that a student can use in this school."""
    return [
        source
        for source in Source
        if source.row.is_played and (settings.IS_DEMO or not source.row.is_for_demo)
    ]


def instruments() -> list[Source]:
    """Return the input sources that are played by hand."""
    return [source for source in Source if source.row.is_played and not source.row.is_for_demo]
