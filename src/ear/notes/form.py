"""The written form of a part: its bars as they stand on paper, with the signs that say in which order they are played.

A part has its bars as they are played, so that each played note is one note. Where it was written with repeats, endings,
da capo or dal segno, its form keeps these signs; `ear.notes.folding` makes the written bars of it.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import islice

from ear.errors import ValueOutOfRange

MAX_TIMES = 16
MAX_BARS = 2_000
"""As they are played."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BarSigns:
    """What the lines of a written bar and the signs over it say of the order."""

    repeats_from: bool = False
    repeats_to: int = 0
    """How often the stretch that ends here is played; 0 where none ends."""
    ending: frozenset[int] = frozenset()
    """Times for which the bar is meant; empty for all."""
    dacapo: bool = False
    dalsegno: bool = False
    segno: bool = False
    tocoda: bool = False
    coda: bool = False
    fine: bool = False

    def __post_init__(self) -> None:
        if not 0 <= self.repeats_to <= MAX_TIMES or any(not 1 <= n <= MAX_TIMES for n in self.ending):
            raise ValueOutOfRange("too_many_repeats", most=MAX_TIMES)


PLAIN_BAR = BarSigns()


@dataclass(frozen=True, kw_only=True)
class WrittenForm:
    """So many written bars, and the signs of those that have any, by their numbers from 1, in order."""

    bars: int
    signs: tuple[tuple[int, BarSigns], ...]

    def __post_init__(self) -> None:
        numbers = [number for number, _ in self.signs]
        if numbers != sorted(set(numbers)) or not all(1 <= number <= self.bars for number in numbers):
            raise ValueOutOfRange("signs_outside_part", count=self.bars)
        if len(self.order) > MAX_BARS:
            raise ValueOutOfRange("too_many_bars", bars_most=MAX_BARS, bars=len(self.order))

    def with_repeat(self, *, first: int, last: int, times: int, ending_bars: int = 0) -> "WrittenForm | None":
        """Return the form in which the played bars `first` to `last` are played so many times in all.

        Their last `ending_bars` are then the ending of every time but the last; for that one as many bars are added behind
        them. None if something of these bars is repeated already, or has signs.
        """
        stretch = self.order[first - 1 : last]
        begin, end = stretch[0], stretch[-1]
        is_free = all(self.order.count(bar) == 1 and self.at(bar) == PLAIN_BAR for bar in stretch)
        if not is_free or list(stretch) != list(range(begin, end + 1)):
            return None
        signs = {bar + (ending_bars if bar > end else 0): each for bar, each in self.signs}
        for k in range(ending_bars):
            signs[end - k] = BarSigns(ending=frozenset(range(1, times)))
            signs[end + 1 + k] = BarSigns(ending=frozenset({times}))
        signs[end] = replace(signs.get(end, PLAIN_BAR), repeats_to=times)
        if begin > 1:
            signs[begin] = replace(signs.get(begin, PLAIN_BAR), repeats_from=True)
        return WrittenForm(
            bars=self.bars + ending_bars, signs=tuple(sorted(signs.items(), key=lambda each: each[0]))
        )

    @classmethod
    def of_bars(cls, again: Mapping[int, int], *, bars: int) -> "WrittenForm | None":
        """Return the form of so many played bars of which some are earlier ones again, by their numbers from 1.

        None where nothing is played again, or in an order for which repeats and endings are not enough.
        """
        repeats: list[tuple[int, int, int, int]] = []
        at, ending_bars = 1, 0
        while at <= bars:
            first = again.get(at)
            if first is None:
                at += 1
                continue
            length, last, times = at - first, at - 1, 1
            # Time after time, until one has bars of its own at its end: those are its ending.
            while same := next((k for k in range(length) if again.get(at + k) != first + k), length):
                times, at, ending_bars = times + 1, at + length, length - same
                if ending_bars:
                    break
            repeats.append((first, last, times, ending_bars))
        form: WrittenForm | None = cls(
            bars=bars - sum((times - 1) * (last - first + 1) for first, last, times, _ in repeats), signs=()
        )
        for first, last, times, ending_bars in repeats:
            if form is not None and last <= len(form.order) and 2 <= times <= MAX_TIMES:
                form = form.with_repeat(first=first, last=last, times=times, ending_bars=ending_bars)
            else:
                return None
        if form is None or not repeats or len(form.order) != bars:
            return None
        played = (form.first_played[written - 1] for written in form.order)
        return form if all(again.get(k, k) == first for k, first in enumerate(played, start=1)) else None

    def at(self, bar: int) -> BarSigns:
        """Return the signs of a written bar."""
        return self._by_bar.get(bar, PLAIN_BAR)

    @cached_property
    def _by_bar(self) -> dict[int, BarSigns]:
        return dict(self.signs)

    @cached_property
    def order(self) -> tuple[int, ...]:
        """Numbers of written bars as they are played; of endless ones one more than there may be."""
        return tuple(islice(self._played(), MAX_BARS + 1))

    @cached_property
    def first_played(self) -> tuple[int, ...]:
        """For each written bar the played one that is its first; 0 where it is not played."""
        first = [0] * self.bars
        for played, written in enumerate(self.order, start=1):
            first[written - 1] = first[written - 1] or played
        return tuple(first)

    @property
    def passages(self) -> tuple[tuple[int, int, bool], ...]:
        """Where it does not simply go on: the played bar, the written one, and whether that was played before."""
        order = self.order
        return tuple(
            (k + 1, order[k], self.first_played[order[k] - 1] <= k)
            for k in range(1, len(order))
            if order[k] != order[k - 1] + 1
        )

    def _played(self) -> Iterator[int]:
        at, start, times, has_jumped = 1, 1, 1, False
        while at <= self.bars:
            sign, before = self.at(at), self.at(at - 1)
            is_past_endings = bool(before.ending) and not sign.ending
            if (sign.repeats_from or is_past_endings) and at != start:
                start, times = at, 1
            is_left_out = times not in sign.ending and not has_jumped
            if sign.ending and (is_left_out or (has_jumped and not self._is_last_ending(at))):
                at += 1
                continue
            yield at
            if sign.repeats_to and not has_jumped:
                if times < sign.repeats_to:
                    times += 1
                    at = start
                    continue
                start, times = at + 1, 1
            if has_jumped and sign.fine:
                return
            coda = self._next(at + 1, "coda") if has_jumped and sign.tocoda else None
            if coda is not None:
                at = coda
            elif (sign.dacapo or sign.dalsegno) and not has_jumped:
                has_jumped = True
                at = (self._next(1, "segno") or 1) if sign.dalsegno else 1
            else:
                at += 1

    def _next(self, bar: int, sign: str) -> int | None:
        return next((number for number, signs in self.signs if number >= bar and getattr(signs, sign)), None)

    def _is_last_ending(self, bar: int) -> bool:
        """After a jump only the last of a stretch's endings is played."""
        own = self.at(bar).ending
        while bar <= self.bars and self.at(bar).ending == own:
            bar += 1
        return not self.at(bar).ending
