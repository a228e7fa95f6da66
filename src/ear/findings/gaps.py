"""What fills the gaps of an ear note's sentences, in a reader's words."""

from ear.notes import Hand
from ear.reader import Reader
from ear.text import gettext_noop
from ear.words.phrases import describe_bars, half_up

Gaps = dict[str, object]
"""By the names of the gaps."""
GIVE_OR_TAKE = gettext_noop(" ± {error}")
HAND_NAMES = {Hand.LEFT: gettext_noop("left"), Hand.RIGHT: gettext_noop("right")}


def describe_bar_gaps(bars: tuple[int, int], reader: Reader) -> Gaps:
    """Return bars as their numbers and in words."""
    return {"first": bars[0], "last": bars[1], "bars": describe_bars(bars, reader)}


def magnitude(value: float) -> int:
    """Return a size without its sign, rounded to whole units, halves up."""
    return half_up(abs(value))


def give_or_take(error: float | None, reader: Reader) -> str:
    """Return “ ± 3”, never less than 1; empty where the error is not known."""
    return "" if error is None else reader.say(GIVE_OR_TAKE, {"error": max(1, half_up(error))})


def describe_hand(hand: Hand, reader: Reader) -> str:
    """Return the name of a hand."""
    return reader.say(HAND_NAMES[hand], {})
