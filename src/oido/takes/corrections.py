"""What was changed in a corrected copy, in words."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _

from ear.labels import Conventions
from ear.notes import Part
from ear.recording.corrected import Corrected, Correction, compared
from ear.units import TICKS_PER_QUARTER
from ear.words.reader import decimal
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
    place, bpm = part.meters.position(c.note.onset_tick), part.tempos.bpm_at(c.note.onset_tick)
    figures: dict[str, Any] = {"from": c.before, "to": c.after}
    if c.what in (Corrected.MOVED, Corrected.LENGTH):
        away = abs(c.after - c.before)
        figures |= {"ms": _ms(away, bpm), "beats": _beats(away, part, c.note.onset_tick)}
        figures["to"] = _beats(c.after, part, c.note.onset_tick)
    if c.what is Corrected.PITCH:
        figures["to"] = conventions.sound(part, c.after, tick=c.note.onset_tick)
    words = {
        Corrected.MOVED: _("%(ms)s ms earlier (%(beats)s of a beat)")
        if c.after < c.before else _("%(ms)s ms later (%(beats)s of a beat)"),
        Corrected.PITCH: _("now %(to)s"),
        Corrected.LENGTH: _("%(to)s of a beat long, %(ms)s ms shorter")
        if c.after < c.before else _("%(to)s of a beat long, %(ms)s ms longer"),
        Corrected.VELOCITY: _("velocity %(to)s instead of %(from)s"), Corrected.DELETED: _("deleted"),
        Corrected.ADDED: _("added"),
    }  # fmt: skip
    meter = part.meters.bar_at(c.note.onset_tick).meter
    short = meter.beat_ticks - place.tick
    if short < place.tick and place.beat < meter.beats:
        figures_at = {"b": place.bar, "k": place.beat + 1, "ms": _ms(short, bpm)}
        at = _("bar %(b)s, %(ms)s ms before beat %(k)s") % figures_at
    else:
        at = _("bar %(b)s, beat %(k)s") % {"b": place.bar, "k": place.beat}
        at += _(" and %(ms)s ms") % {"ms": _ms(place.tick, bpm)} if place.tick else ""
    return at, conventions.sound(part, c.note.pitch, tick=c.note.onset_tick), words[c.what] % figures


def _ms(ticks: int, bpm: float) -> str:
    return f"{ticks / TICKS_PER_QUARTER * 60_000.0 / bpm:.0f}"


def _beats(ticks: int, part: Part, tick: int) -> str:
    """Of the beat that a musician counts there, to a hundredth."""
    share = ticks / part.meters.bar_at(tick).meter.beat_ticks
    return decimal(share, 2) if share >= 0.005 else _("less than 0.01")
