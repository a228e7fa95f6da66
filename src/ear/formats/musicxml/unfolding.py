"""In which order the bars of a score are played: repeats, endings, da capo and dal segno."""

from collections.abc import Sequence
from dataclasses import dataclass
from xml.etree.ElementTree import Element

from ear.errors import FormatError
from ear.formats import limits
from ear.formats.musicxml.elements import whole_of

TIMES_MOST = 16


@dataclass(slots=True, kw_only=True)
class _Signs:
    """What a bar's lines and directions say of the order."""

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


def played_order(measures: Sequence[Element]) -> list[int]:
    """Bars by index as they are played. Raises FormatError where that would be more than a part holds."""
    signs = _signs(measures)
    order: list[int] = []
    at, start, times, has_jumped = 0, 0, 1, False
    while at < len(signs):
        sign = signs[at]
        is_past_endings = at > 0 and bool(signs[at - 1].ending) and not sign.ending
        if (sign.repeats_from or is_past_endings) and at != start:
            start, times = at, 1
        if sign.ending and times not in sign.ending and not has_jumped:
            at += 1
            continue
        if sign.ending and has_jumped and not _is_last_ending(signs, at):
            at += 1
            continue
        order.append(at)
        if len(order) > limits.BARS:
            raise FormatError(expected=f"at most {limits.BARS:,} bars", found="more, with all repeats")
        if sign.repeats_to and not has_jumped:
            if times < min(TIMES_MOST, sign.repeats_to):
                times += 1
                at = start
                continue
            start, times = at + 1, 1
        if has_jumped and sign.fine:
            break
        if has_jumped and sign.tocoda:
            coda = next((k for k, s in enumerate(signs) if s.coda and k > at), None)
            if coda is not None:
                at = coda
                continue
        if (sign.dacapo or sign.dalsegno) and not has_jumped:
            has_jumped = True
            at = next((k for k, s in enumerate(signs) if s.segno), 0) if sign.dalsegno else 0
            continue
        at += 1
    return order


def _is_last_ending(signs: Sequence[_Signs], at: int) -> bool:
    """After a jump only the last of a stretch's endings is played."""
    k = at
    while k < len(signs) and signs[k].ending == signs[at].ending:
        k += 1
    return k >= len(signs) or not signs[k].ending


def _signs(measures: Sequence[Element]) -> list[_Signs]:
    found: list[_Signs] = []
    ending: frozenset[int] = frozenset()
    for measure in measures:
        sign = _Signs()
        closes = False
        for barline in measure.findall("barline"):
            repeat, mark = barline.find("repeat"), barline.find("ending")
            if repeat is not None and repeat.get("direction") == "forward":
                sign.repeats_from = True
            elif repeat is not None:
                sign.repeats_to = _number(repeat.get("times"), 2)
            if mark is not None and mark.get("type") == "start":
                ending = _numbers(mark.get("number", ""))
            elif mark is not None:
                closes = True
        sign.ending = ending
        if closes:
            ending = frozenset()
        for sound in measure.iter("sound"):
            for name in ("dacapo", "dalsegno", "segno", "tocoda", "coda", "fine"):
                if sound.get(name) not in (None, "no"):
                    setattr(sign, name, True)
        found.append(sign)
    # With endings, a stretch is played as often as its endings say.
    for k, sign in enumerate(found):
        if sign.repeats_to and sign.ending:
            last = max(sign.ending)
            has_next = any(last < max(s.ending) for s in found[k + 1 :] if s.ending)
            sign.repeats_to = last + 1 if has_next else 0
    return found


def _number(text: str | None, plain: int) -> int:
    return whole_of(text) or plain


def _numbers(text: str) -> frozenset[int]:
    words = text.replace(",", " ").replace("-", " ").split()
    return frozenset(number for number in map(whole_of, words) if number is not None)
