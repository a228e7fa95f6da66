"""Tools that count a part's bars from 1, for parts whose first bar has another number."""

from collections.abc import Callable
from dataclasses import replace
from functools import wraps
from typing import Any, TypeVar, cast

from ear.editing.edited import Edited
from ear.errors import ValueOutOfRange
from ear.notes import Part

BarEdit = TypeVar("BarEdit", bound=Callable[..., Edited])
BARS_BY_NUMBER = ("bar", "first", "last", "before")
"""Arguments that are numbers of bars."""


def by_position(stays: Callable[..., bool]) -> Callable[[BarEdit], BarEdit]:
    """Let a function count a part's bars from 1, whatever their numbers are, and number what it returns as the part was.

    `stays` says of its arguments, counted so, whether a pick-up is still the first bar afterwards.
    """

    def wrapped(edit: BarEdit) -> BarEdit:
        @wraps(edit)
        def numbered(part: Part, **kwargs: Any) -> Edited:
            by = 1 - part.first_bar
            if not by:
                return edit(part, **kwargs)
            if "last" in kwargs:
                check_bars(part, kwargs["first"], kwargs["last"])
            counted = {name: each + by if name in BARS_BY_NUMBER else each for name, each in kwargs.items()}
            edited = edit(part.numbered_from(1), **counted)
            is_pickup = stays(**counted)
            return replace(edited, part=edited.part.numbered_from(part.first_bar)) if is_pickup else edited

        return cast("BarEdit", numbered)

    return wrapped


def check_bars(part: Part, first: int, last: int) -> None:
    """Check that a part has bars of these numbers. Raises ValueOutOfRange."""
    if not part.first_bar <= first <= last <= part.last_bar:
        raise ValueOutOfRange("bar_range_outside_part", count=part.last_bar, first=first, last=last)
