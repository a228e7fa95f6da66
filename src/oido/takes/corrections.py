"""What was changed in a corrected copy, in words."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from ear.labels import Conventions
from ear.notes import Part
from ear.recording.corrected import Corrected, Correction, compared
from oido.takes.copies import raw_and_copy, were_bars_changed
from oido.takes.models import Take

LINES_SHOWN = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class CorrectionsTold:
    """`lines` are (place, note, what was done); `more` of them are not listed."""

    counts: list[str]
    lines: list[tuple[str, str, str]]
    more: int


def told(take: Take, conventions: Conventions) -> CorrectionsTold | None:
    """All corrections of a take's copy; None where it has none."""
    both = raw_and_copy(take)
    if both is None:
        return None
    beside = compared(*both, may_repeat=were_bars_changed(take))
    found = beside.corrections
    counts = {
        Corrected.MOVED: _("%(n)s moved"), Corrected.PITCH: _("%(n)s to another key"),
        Corrected.LENGTH: _("%(n)s longer or shorter"), Corrected.VELOCITY: _("%(n)s with another velocity"),
        Corrected.DELETED: _("%(n)s deleted"), Corrected.ADDED: _("%(n)s added"),
    }  # fmt: skip
    return CorrectionsTold(
        counts=[
            *(_("bar %(n)s repeats another") % {"n": bar} for bar in beside.repeated),
            *(
                words % {"n": count}
                for what, words in counts.items()
                if (count := sum(c.what is what for c in found))
            ),
        ],
        lines=[_line(c, both[0], conventions) for c in found[:LINES_SHOWN]],
        more=max(0, len(found) - LINES_SHOWN),
    )


def _line(c: Correction, part: Part, conventions: Conventions) -> tuple[str, str, str]:
    place = part.meters.position(c.note.onset_tick)
    figures: dict[str, Any] = {"from": c.before, "to": c.after, "by": f"{c.after - c.before:+d}"}
    if c.what is Corrected.PITCH:
        figures["to"] = conventions.sound(part, c.after, tick=c.note.onset_tick)
    words = {
        Corrected.MOVED: _("moved by %(by)s ticks"), Corrected.PITCH: _("now %(to)s"),
        Corrected.LENGTH: _("%(to)s ticks long instead of %(from)s"),
        Corrected.VELOCITY: _("velocity %(to)s instead of %(from)s"), Corrected.DELETED: _("deleted"),
        Corrected.ADDED: _("added"),
    }  # fmt: skip
    at = f"{place.bar}.{place.beat}" + (f" + {place.tick}" if place.tick else "")
    return at, conventions.sound(part, c.note.pitch, tick=c.note.onset_tick), words[c.what] % figures
