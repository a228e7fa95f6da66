"""What was found for a part a moment ago, found again without working it out: by the part itself, since to compare whole
parts would take as long."""

from collections import deque
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar, cast

KEPT = 6
"""Results that are kept: an act needs those of the part before it and of the part after."""
F = TypeVar("F", bound=Callable[..., Any])


def of_the_same_part(function: F) -> F:
    """Remember the last results of a function whose first argument is a part, and return the function with that
    memory.

    Do not change the results.
    """
    kept: deque[tuple[Any, Any, Any]] = deque(maxlen=KEPT)

    @wraps(function)
    def remembered(part: Any, **more: Any) -> Any:
        for known, asked, value in tuple(kept):
            if known is part and asked == more:
                return value
        value = function(part, **more)
        kept.append((part, more, value))
        return value

    return cast(F, remembered)
