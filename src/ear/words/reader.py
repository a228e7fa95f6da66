"""Who reads: a language and a school's conventions. Texts are said for a reader."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from ear.labels.conventions import PLAIN, Conventions
from ear.notes import Part
from ear.numerals import Numeral
from ear.text import Text, gettext_noop, ngettext_lazy


def _plain(text: str) -> str:
    return text


def _plain_plural(singular: str, plural: str, number: float) -> str:
    return singular if number == 1 else plural


@dataclass(frozen=True, slots=True, kw_only=True)
class Reader:
    """A language and a school's conventions; by itself plain English."""

    conventions: Conventions = PLAIN
    gettext: Callable[[str], str] = _plain
    ngettext: Callable[[str, str, float], str] = _plain_plural
    pgettext: Callable[[str, str], str] = lambda context, text: text
    write_numeral: Callable[[str], str] = _plain
    """Puts the language's decimal mark into a number that has a point."""

    def say(self, text: Text, values: Mapping[str, object]) -> str:
        """Return the text with its gaps filled, in the plural form that its number asks for, and figures as the
        language writes them."""
        number = values[text.by] if text.plural else None
        values = {k: self.write_numeral(v) if isinstance(v, Numeral) else v for k, v in values.items()}
        if text.plural:
            assert isinstance(number, int | float)
            return self.ngettext(text.singular, text.plural, number).format(**values)
        if text.context:
            return self.pgettext(text.context, text.singular).format(**values)
        return self.gettext(text.singular).format(**values) if text.singular else ""

    def sound(self, part: Part, pitch: int, *, tick: int = 0) -> str:
        """Return the name of a pitch of a part; in a drum part, of its lane."""
        name = self.conventions.sound(part, pitch, tick=tick)
        return self.gettext(name) if part.instrument.has_lanes else name


ENGLISH = Reader()


BARS = ngettext_lazy("bar {first}", "bars {first} to {last}", by="bars")


PICKUP, PICKUP_TO = gettext_noop("pick-up"), gettext_noop("pick-up to bar {last}")


def describe_bars(bars: tuple[int, int], reader: Reader) -> str:
    """Return bars, by their numbers, in words."""
    first, last = bars
    if first == 0:
        return reader.say(PICKUP_TO if last else PICKUP, {"last": last})
    return reader.say(BARS, {"first": first, "last": last, "bars": last - first + 1})


LISTED = gettext_noop("{before} and {last}")


def listed(items: Sequence[str], reader: Reader) -> str:
    """Return items as they are said in a row: “4”, “4 and 8”, “4, 8 and 12”."""
    if len(items) < 2:
        return "".join(items)
    return reader.say(LISTED, {"before": ", ".join(items[:-1]), "last": items[-1]})


def half_up(value: float) -> int:
    """Return the value rounded to a whole number, halves up: 2.5 is 3."""
    return math.floor(value + 0.5)
