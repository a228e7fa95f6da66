"""The same music in other bars: bars split in two, joined in pairs, in another metre."""

from collections.abc import Callable, Sequence
from dataclasses import replace

from ear.editing.bar_numbers import by_position, check_bars
from ear.editing.bars import check_room, made_of_bars, meters_of, one_a_bar
from ear.editing.edited import Edited
from ear.errors import ValueOutOfRange
from ear.notes import Meter, Part


@by_position(lambda first, last: first > 1)
def split_bars(part: Part, *, first: int, last: int) -> Edited:
    """Return the part with each bar split into two of half its beats; no note moves.

    Raises ValueOutOfRange for an odd number of beats.
    """
    check_bars(part, first, last)
    meters: list[Meter] = []
    for number, meter in enumerate(meters_of(part), start=1):
        if not first <= number <= last:
            meters.append(meter)
        elif meter.numerator % 2:
            raise ValueOutOfRange(
                "bar_cannot_be_halved", numerator=meter.numerator, denominator=meter.denominator
            )
        else:
            meters += [replace(meter, numerator=meter.numerator // 2)] * 2
    return rebarred(part, meters, lambda bar: bar + max(0, min(bar - 1, last) - first + 1))


@by_position(lambda first, last: first > 1)
def join_bars(part: Part, *, first: int, last: int) -> Edited:
    """Return the part with each pair of bars joined into one; no note moves.

    Raises ValueOutOfRange for an odd number of bars, or for unlike metres.
    """
    check_bars(part, first, last)
    if (last - first) % 2 == 0:
        raise ValueOutOfRange("bars_not_even", first=first, last=last)
    meters = meters_of(part)
    joined: list[Meter] = []
    for a, b in zip(meters[first - 1 : last : 2], meters[first:last:2], strict=True):
        if a.denominator != b.denominator:
            raise ValueOutOfRange("bars_with_different_beats")
        joined.append(replace(a, numerator=a.numerator + b.numerator))
    return rebarred(
        part,
        [*meters[: first - 1], *joined, *meters[last:]],
        lambda bar: (
            bar if bar < first else first + (min(bar, last + 1) - first) // 2 + max(0, bar - last - 1)
        ),
    )


def rebarred(part: Part, meters: Sequence[Meter], moved: Callable[[int], int]) -> Edited:
    """Return the same music in bars of another metre."""
    check_room(len(meters))
    sections = one_a_bar(replace(s, bar=moved(s.bar)) for s in part.sections)
    return made_of_bars(part, meters=meters, after=meters[-1], tempos=part.tempos, sections=sections)
