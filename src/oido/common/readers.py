"""Texts of the core in the language of the request."""

from django.utils.translation import gettext, ngettext

from ear.labels import PLAIN, Conventions
from ear.words.reader import Reader


def reader_with(conventions: Conventions) -> Reader:
    """Return a reader in the language of the request, with these conventions."""
    return Reader(conventions=conventions, gettext=gettext, ngettext=_ngettext)


def _ngettext(singular: str, plural: str, number: float) -> str:
    # Catalogues choose a plural by a whole number: a fraction takes the form of two.
    return ngettext(singular, plural, int(number) if number == int(number) else 2)


PAGES = reader_with(PLAIN)
