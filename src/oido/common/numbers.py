"""Whole numbers in addresses and simple fields."""

MAX_DIGITS = 9


def whole(text: str) -> int | None:
    """A whole number as a person writes it, a sign before it or not; None for anything else, and for what no
    column holds."""
    digits = text.removeprefix("-")
    if not (digits.isascii() and digits.isdigit() and len(digits) <= MAX_DIGITS):
        return None
    return int(text)
