"""Values to plain JSON values and back. Types say how something is stored; msgspec does the work, here alone."""

from typing import Any, TypeVar

import msgspec

from ear.errors import FormatError

T = TypeVar("T")


def to_plain(value: Any) -> Any:
    """Return a value as it comes back from a JSON column: with lists, and with keys that are text."""
    return msgspec.json.decode(msgspec.json.encode(value))


def to_text(value: Any) -> str:
    """Return a value as JSON without spaces."""
    return msgspec.json.encode(value).decode()


def from_plain(data: Any, kind: type[T], *, expected: str) -> T:
    """Return plain values as a value of a type; unknown names are ignored.

    Raises FormatError, which says where; and what the type itself raises.
    """
    try:
        return msgspec.convert(data, kind, str_keys=True)
    except msgspec.ValidationError as problem:
        raise FormatError(expected=expected, actual=f"{problem}") from problem


def alike(value: object, kind: type[T]) -> T:
    """Return a value of another type that has fields of the same names."""
    return msgspec.convert(value, kind, from_attributes=True)
