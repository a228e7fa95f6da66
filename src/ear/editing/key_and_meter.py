"""Key and meter that change inside a part."""

from dataclasses import replace
from math import ceil

from ear.editing.bar_numbers import by_position
from ear.editing.bars import meters_of
from ear.editing.edited import Edited
from ear.editing.rebarring import rebarred
from ear.errors import ValueOutOfRange
from ear.notes import Meter, Part, Section
from ear.notes.part import MAX_FIFTHS
from ear.patterns.modes import key_name


def set_key(part: Part, *, bar: int, fifths: int) -> Part:
    """Set a key signature from a bar up to the next one that is written; no note moves.

    The change begins a section, named by the key if it has no name. A section that was named so and changes
    nothing any more is removed. Raises ValueOutOfRange.
    """
    if not part.instrument.has_key:
        raise ValueOutOfRange("drums_without_key")
    if not part.first_bar <= bar <= part.last_bar:
        raise ValueOutOfRange("bar_outside_part", field="bar", count=part.last_bar)
    if abs(fifths) > MAX_FIFTHS:
        raise ValueOutOfRange("key_signature_out_of_range", field="key", fifths_max=MAX_FIFTHS, fifths=fifths)
    start = part.meters.bar(bar).start_tick
    before = part.fifths_at(start - 1) if bar > part.first_bar else fifths
    was = part.fifths_at(start)
    known = next((s for s in part.sections if s.bar == bar), None)
    kept = [s for s in part.sections if s.bar < bar]
    is_named = known is not None and known.name != key_name(was)
    if bar > part.first_bar and (is_named or fifths != before):
        kept.append(
            Section(bar=bar, name=known.name if known and is_named else key_name(fifths), fifths=fifths)
        )
    elif bar == part.first_bar and is_named and known is not None:
        kept.append(replace(known, fifths=None if known.fifths is None else fifths))
    goes_on = True
    for section in (s for s in part.sections if s.bar > bar):
        goes_on = goes_on and section.fifths is None
        kept.append(replace(section, fifths=fifths) if goes_on and bar > part.first_bar else section)
    return replace(part, fifths=fifths if bar == part.first_bar else part.fifths, sections=tuple(kept))


@by_position(lambda **_: True)
def set_meter(part: Part, *, bar: int, meter: Meter) -> Edited:
    """Set another metre from a bar to the end; no note moves, so the part may have more bars or fewer.

    Raises ValueOutOfRange.
    """
    if not part.first_bar <= bar <= part.last_bar:
        raise ValueOutOfRange("bar_outside_part", field="bar", count=part.last_bar)
    start, end = part.meters.bar(bar).start_tick, part.bars[-1].end_tick
    count = max(1, ceil((end - start) / meter.bar_ticks))

    def moved(number: int) -> int:
        into = part.meters.bar(number).start_tick - start
        return number if into <= 0 else min(bar + into // meter.bar_ticks, bar + count - 1)

    return rebarred(part, [*meters_of(part)[: bar - part.first_bar], *[meter] * count], moved)
