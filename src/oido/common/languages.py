"""The languages Oido is offered in. One is offered once its catalogue is complete: half a page in another language helps nobody."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Language:
    """A language, and how its readers name music unless a school or a person says otherwise."""

    code: str
    name: str
    """In the language itself, for those who look for it."""
    has_solfege: bool = False
    """Whether notes are do, re, mi rather than C, D, E."""
    has_american_values: bool = False
    """Whether note values are quarter notes rather than crotchets."""


BRITISH = Language("en-gb", "British English")
OFFERED = (
    BRITISH,
    Language("en-us", "American English", has_american_values=True),
    Language("es", "Español", has_solfege=True),
)
CHOICES = [(language.code, language.name) for language in OFFERED]
_BY_CODE = {language.code: language for language in OFFERED}


def language_called(code: str | None) -> Language:
    """Return the language with this code, or British English, in which Oido is written."""
    return _BY_CODE.get(code or "", BRITISH)
