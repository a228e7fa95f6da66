"""Bars and lists in words."""

import math
from collections.abc import Sequence

from ear.reader import Reader
from ear.text import gettext_noop, ngettext_lazy

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
