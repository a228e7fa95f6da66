"""Whole numbers in addresses and simple fields."""

DIGITS_MOST = 9


def whole(said: str) -> int | None:
    """A whole number as a person writes it, a sign before it or not; None for anything else, and for what no
    column holds."""
    digits = said.removeprefix("-")
    if not (digits.isascii() and digits.isdigit() and len(digits) <= DIGITS_MOST):
        return None
    return int(said)
