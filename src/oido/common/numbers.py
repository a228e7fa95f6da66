"""Whole numbers in addresses and simple fields."""

MAX_DIGITS = 9


def whole(text: str) -> int | None:
    """Return the whole number in a text, with or without a sign, or None for anything else, including numbers
    too large to store.
    """
    digits = text.removeprefix("-")
    if not (digits.isascii() and digits.isdigit() and len(digits) <= MAX_DIGITS):
        return None
    return int(text)
