"""Numbers as they are written, until a reader's decimal mark is put into them."""


class Numeral(str):
    """A number in writing, with a decimal point. A reader says it with the decimal mark of their language."""

    __slots__ = ()


def signed(value: float, digits: int = 0) -> Numeral:
    """Return a number with its sign, with a real minus; a value that rounds to nothing is a plain 0."""
    rounded = round(value, digits)
    return Numeral(f"{rounded:+.{digits}f}".replace("-", "−") if rounded else "0")


def decimal(value: float, digits: int = 3) -> Numeral:
    """Return a number with as many decimals as it needs, up to `digits`."""
    text = f"{value + 0.0:.{digits}f}"
    return Numeral((text.rstrip("0").rstrip(".") if "." in text else text).replace("-", "−"))


def fixed(value: float, digits: int) -> Numeral:
    """Return a number with exactly so many decimals."""
    return Numeral(f"{value:.{digits}f}".replace("-", "−"))
