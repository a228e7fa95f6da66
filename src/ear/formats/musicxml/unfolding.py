"""The signs by which the bars of a score are played in another order than they are written."""

from collections.abc import Sequence
from dataclasses import dataclass
from xml.etree.ElementTree import Element

from ear.errors import FormatError, ValueOutOfRange
from ear.formats import limits
from ear.formats.musicxml.elements import whole_of
from ear.notes.form import MAX_TIMES, PLAIN_BAR, BarSigns, WrittenForm

JUMPS = ("dacapo", "dalsegno", "segno", "tocoda", "coda", "fine")


@dataclass(slots=True, kw_only=True)
class _Read:
    """Of one bar, as it is read."""

    repeats_from: bool
    repeats_to: int
    ending: frozenset[int]
    jumps: frozenset[str]


def written_form(measures: Sequence[Element]) -> WrittenForm:
    """Return the written bars of a score with their signs.

    Raises FormatError if they last longer, with all repeats, than a part may.
    """
    read = _read(measures)
    # With endings, a stretch is played as often as its endings say.
    for k, bar in enumerate(read):
        if bar.repeats_to and bar.ending:
            last = max(bar.ending)
            has_next = any(last < max(b.ending) for b in read[k + 1 :] if b.ending)
            bar.repeats_to = last + 1 if has_next else 0
    signs = []
    for number, bar in enumerate(read, start=1):
        bar_signs = BarSigns(
            repeats_from=bar.repeats_from, repeats_to=min(MAX_TIMES, bar.repeats_to), ending=bar.ending,
            **dict.fromkeys(bar.jumps, True),
        )  # fmt: skip
        if bar_signs != PLAIN_BAR:
            signs.append((number, bar_signs))
    try:
        return WrittenForm(bars=len(read), signs=tuple(signs))
    except ValueOutOfRange:
        raise FormatError(expected=f"at most {limits.BARS:,} bars", actual="more, with all repeats") from None


def _read(measures: Sequence[Element]) -> list[_Read]:
    order: list[_Read] = []
    ending: frozenset[int] = frozenset()
    for measure in measures:
        repeats_from, repeats_to, closes = False, 0, False
        for barline in measure.findall("barline"):
            repeat, mark = barline.find("repeat"), barline.find("ending")
            if repeat is not None and repeat.get("direction") == "forward":
                repeats_from = True
            elif repeat is not None:
                repeats_to = whole_of(repeat.get("times")) or 2
            if mark is not None and mark.get("type") == "start":
                ending = _numbers(mark.get("number", ""))
            elif mark is not None:
                closes = True
        sounds = list(measure.iter("sound"))
        jumps = {name for name in JUMPS for sound in sounds if sound.get(name) not in (None, "no")}
        order.append(
            _Read(
                repeats_from=repeats_from,
                repeats_to=max(0, repeats_to),
                ending=ending,
                jumps=frozenset(jumps),
            )
        )
        if closes:
            ending = frozenset()
    return order


def _numbers(text: str) -> frozenset[int]:
    words = text.replace(",", " ").replace("-", " ").split()
    return frozenset(
        number for number in map(whole_of, words) if number is not None and 1 <= number <= MAX_TIMES
    )
