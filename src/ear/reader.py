"""Who reads: a language and a school's conventions. Texts are said for a reader."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from ear.conventions import PLAIN, Conventions
from ear.notes import Part
from ear.numerals import Numeral
from ear.text import Text


def _plain(text: str) -> str:
    return text


def _plain_plural(singular: str, plural: str, number: float) -> str:
    return singular if number == 1 else plural


@dataclass(frozen=True, slots=True, kw_only=True)
class Reader:
    """A language and a school's conventions; by itself plain English."""

    conventions: Conventions = PLAIN
    gettext: Callable[[str], str] = _plain
    ngettext: Callable[[str, str, float], str] = _plain_plural
    pgettext: Callable[[str, str], str] = lambda context, text: text
    write_numeral: Callable[[str], str] = _plain
    """Puts the language's decimal mark into a number that has a point."""

    def say(self, text: Text, values: Mapping[str, object]) -> str:
        """Return the text with its gaps filled, in the plural form that its number asks for, and figures as the
        language writes them."""
        number = values[text.by] if text.plural else None
        values = {k: self.write_numeral(v) if isinstance(v, Numeral) else v for k, v in values.items()}
        if text.plural:
            assert isinstance(number, int | float)
            return self.ngettext(text.singular, text.plural, number).format(**values)
        if text.context:
            return self.pgettext(text.context, text.singular).format(**values)
        return self.gettext(text.singular).format(**values) if text.singular else ""

    def sound(self, part: Part, pitch: int, *, tick: int = 0) -> str:
        """Return the name of a pitch of a part; in a drum part, of its lane."""
        name = self.conventions.sound(part, pitch, tick=tick)
        return self.gettext(name) if part.instrument.has_lanes else name


ENGLISH = Reader()
