"""What a teacher has said of notes and bars, as a report tells it."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from ear.judging.settings import NoteOverride, Reason
from ear.words.reader import Reader
from oido.reports.analysed_take import Reading
from oido.takes.sayings import place_of, reasons_of, sayings_of

SAYINGS: dict[NoteOverride, Any] = {
    NoteOverride.RIGHT: gettext_lazy("counts as right"), NoteOverride.NOT_COUNTED: gettext_lazy("does not count"),
}  # fmt: skip
REASONS: dict[Reason, Any] = {
    Reason.ORNAMENT: gettext_lazy("agreed ornament"), Reason.FINGERING: gettext_lazy("another fingering"),
    Reason.MISPRINT: gettext_lazy("misprint"), Reason.OTHER: gettext_lazy("another reason"),
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class SaidOverride:
    """One line: where, what is said, why, and whether it holds for the exercise."""

    place: str
    where: str
    what: Any
    why: Any
    is_for_all: bool
    bar_again: int = 0
    """The bar that was measured again; 0 where something is said of how it counts."""
    slip: int | None = None
    """The first of the notes that a slip could land on, where it is said where it was."""


def said_of(reading: Reading, name: str, bar: int) -> dict[str, Any]:
    """Of one note, and of its bar."""
    known = sayings_of(reading.take, reading.facts)
    return {
        "place": name, "bar": f"b{bar}", "note_said": SAYINGS.get(known[name]) if name in known else None,
        "bar_said": SAYINGS.get(known[f"b{bar}"]) if f"b{bar}" in known else None,
        "can_measure": reading.take.part.free is None, "is_measured_again": bar in reading.take.set_for_it.again,
    }  # fmt: skip


def all_said(reading: Reading, reader: Reader) -> list[SaidOverride]:
    """In order of bars."""
    take, facts = reading.take, reading.facts
    known, reasons = sayings_of(take, facts), reasons_of(take)
    own = take.set_for_it.sayings
    rows = [
        (
            bar,
            SaidOverride(
                place=f"b{bar}",
                where=_("bar %(b)s") % {"b": bar},
                what=_("measured again"),
                why="",
                is_for_all=False,
                bar_again=bar,
            ),
        )
        for bar in take.set_for_it.again
    ]
    for slip in facts.slips:
        if slip.is_told and slip.landed is not None:
            at = reading.part.meters.position(reading.part.notes[slip.landed].onset_tick)
            rows.append(
                (
                    at.bar,
                    SaidOverride(
                        place=f"t{slip.landed}", where=_("bar %(b)s") % {"b": at.bar},
                        what=_("the slip was here"), why="", is_for_all=False, slip=slip.could_land[0],
                    ),
                )
            )  # fmt: skip
    for place, said in known.items():
        bar, where = _where(reading, place)
        why = REASONS.get(reasons[place]) if place in reasons else ""
        rows.append(
            (
                bar,
                SaidOverride(
                    place=place, where=where, what=SAYINGS[said], why=why, is_for_all=place not in own
                ),
            )
        )
    return [one for _bar, one in sorted(rows, key=lambda pair: (pair[0], pair[1].place))]


def _where(reading: Reading, place: str) -> tuple[int, str]:
    number, part = int(place[1:]), reading.part
    if place[0] == "b":
        return number, _("bar %(b)s") % {"b": number}
    if place[0] == "t" and number < len(part.notes):
        tick = part.notes[number].onset_tick
    elif number < len(reading.played.notes):
        tick, _pitch = place_of(reading.take, reading.facts, number, part=part, played=reading.played)
    else:
        tick = 0
    at = part.meters.position(max(0, tick))
    return at.bar, _("bar %(b)s, beat %(k)s") % {"b": at.bar, "k": at.beat}
