"""What was changed in a corrected copy, in words."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from ear.notes import Part
from ear.reader import Reader
from ear.recording.corrected import Corrected, Correction, compared
from ear.units import TICKS_PER_QUARTER
from oido.common.readers import number
from oido.takes.copies import raw_and_copy, were_bars_changed
from oido.takes.models import Take

LINES_SHOWN = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class CorrectionsSummary:
    """`lines` are (place, note, what was done); `more` of them are not listed."""

    counts: list[str]
    lines: list[tuple[str, str, str]]
    more: int


def summarise_corrections(take: Take, reader: Reader) -> CorrectionsSummary | None:
    """Return all corrections in a take's copy, or None if it has none."""
    both = raw_and_copy(take)
    if both is None:
        return None
    beside = compared(*both, may_repeat=were_bars_changed(take))
    rows = beside.corrections
    by_note = [
        list(of_note) for _note, of_note in groupby(rows, key=lambda c: (c.note.onset_tick, c.note.pitch))
    ]
    counts = {
        Corrected.MOVED: _("%(n)s moved"), Corrected.PITCH: _("%(n)s moved to another pitch"),
        Corrected.LENGTH: _("%(n)s longer or shorter"), Corrected.VELOCITY: _("%(n)s with another velocity"),
        Corrected.DELETED: _("%(n)s deleted"), Corrected.ADDED: _("%(n)s added"),
    }  # fmt: skip
    return CorrectionsSummary(
        counts=[
            *(_("bar %(n)s repeats another") % {"n": bar} for bar in beside.repeated),
            *(
                words % {"n": count}
                for kind, words in counts.items()
                if (count := sum(c.kind is kind for c in rows))
            ),
        ],
        lines=[_line(changes, both[0], reader) for changes in by_note[:LINES_SHOWN]],
        more=max(0, len(by_note) - LINES_SHOWN),
    )


def _line(changes: Sequence[Correction], part: Part, reader: Reader) -> tuple[str, str, str]:
    """Return the place of one note, its name, with the new one where it was corrected, and all that was done to it."""
    note = changes[0].note
    name = reader.sound(part, note.pitch, tick=note.onset_tick)
    for change in changes:
        if change.kind is Corrected.PITCH:
            name += f" → {reader.sound(part, change.after, tick=note.onset_tick)}"
    return _place(note.onset_tick, part), name, "; ".join(_words(change, part) for change in changes)


def _words(c: Correction, part: Part) -> str:
    bpm = part.tempos.bpm_at(c.note.onset_tick)
    figures: dict[str, object] = {"from": c.before, "to": c.after}
    if c.kind in (Corrected.MOVED, Corrected.LENGTH):
        away = abs(c.after - c.before)
        figures |= {"ms": _ms(away, bpm), "beats": _beats(away, part, c.note.onset_tick)}
        figures["to"] = _beats(c.after, part, c.note.onset_tick)
    words = {
        Corrected.MOVED: _("%(ms)s ms earlier (%(beats)s of a beat)")
        if c.after < c.before else _("%(ms)s ms later (%(beats)s of a beat)"),
        Corrected.PITCH: _("another key"),
        Corrected.LENGTH: _("now %(to)s of a beat long (%(ms)s ms shorter)")
        if c.after < c.before else _("now %(to)s of a beat long (%(ms)s ms longer)"),
        Corrected.VELOCITY: _("velocity %(to)s instead of %(from)s"), Corrected.DELETED: pgettext("label", "deleted"),
        Corrected.ADDED: _("added"),
    }  # fmt: skip
    return str(words[c.kind]) % figures


def _place(tick: int, part: Part) -> str:
    """Say where a note was played, by the beat that it is nearest to."""
    place, bpm = part.meters.position(tick), part.tempos.bpm_at(tick)
    meter = part.meters.bar_at(tick).meter
    short = meter.beat_ticks - place.tick
    if short >= place.tick:
        figures = {"b": place.bar, "k": place.beat, "ms": _ms(place.tick, bpm)}
        if not place.tick:
            return _("bar %(b)s, beat %(k)s") % figures
        return _("bar %(b)s, %(ms)s ms after beat %(k)s") % figures
    is_last = place.beat >= meter.beats
    return _("bar %(b)s, %(ms)s ms before beat %(k)s") % {
        "b": place.bar + is_last, "k": 1 if is_last else place.beat + 1, "ms": _ms(short, bpm),
    }  # fmt: skip


def _ms(ticks: int, bpm: float) -> str:
    return f"{ticks / TICKS_PER_QUARTER * 60_000.0 / bpm:.0f}"


def _beats(ticks: int, part: Part, tick: int) -> str:
    """Of the beat that a musician counts there, to a hundredth."""
    share = ticks / part.meters.bar_at(tick).meter.beat_ticks
    return number(share, 2) if share >= 0.005 else _("less than 0.01")
