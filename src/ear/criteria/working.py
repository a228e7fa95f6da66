"""Lines of a sum in words: for each code what it is, and its figures; to be read aloud to a parent."""

from collections.abc import Sequence
from dataclasses import dataclass

from ear.criteria.score import WorkingLine
from ear.numerals import decimal, signed
from ear.reader import Reader
from ear.text import Text

COUNT, EARNED = "{count}", "{earned} ÷ {of} → {score}"
"""Figures of many lines."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LineText:
    """A line of the working in words."""

    label: str
    figure: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LineWords:
    """What a line says. Figures have two digits at most, unless they are named here."""

    label: Text
    figure: Text
    one_digit: tuple[str, ...] = ()
    signed: tuple[str, ...] = ()
    """Whole numbers with their sign."""

    def say(self, line: WorkingLine, reader: Reader) -> LineText:
        """Return the line in a reader's words."""
        values: dict[str, object] = {}
        for name, value in line.values.items():
            if name in self.signed:
                values[name] = signed(float(value))
            elif isinstance(value, float):
                values[name] = decimal(value, 1 if name in self.one_digit else 2)
            else:
                values[name] = value
        return LineText(label=reader.say(self.label, values), figure=reader.say(self.figure, values))


def words(
    label: Text, figure: str | Text = "", *, one_digit: Sequence[str] = (), signed: Sequence[str] = ()
) -> LineWords:
    """Return what a line says; a figure that is not to be translated is plain text."""
    return LineWords(
        label=label, figure=figure if isinstance(figure, Text) else Text(singular=figure),
        one_digit=tuple(one_digit), signed=tuple(signed),
    )  # fmt: skip
