"""Texts and numbers of the core in the language of the request."""

from dataclasses import replace
from typing import TYPE_CHECKING

from django.utils.formats import get_format
from django.utils.translation import get_language, gettext, gettext_lazy, ngettext, pgettext, pgettext_lazy

from ear.conventions import PLAIN, Conventions
from ear.numerals import decimal, signed
from ear.reader import Reader
from ear.text import Text
from oido.common.languages import language_called

if TYPE_CHECKING:
    from django.utils.functional import _StrPromise


def reader_with(conventions: Conventions) -> Reader:
    """Return a reader in the language of the request, with these conventions."""
    return Reader(
        conventions=conventions,
        gettext=gettext,
        ngettext=_ngettext,
        pgettext=pgettext,
        write_numeral=write_numeral,
    )


def _ngettext(singular: str, plural: str, number: float) -> str:
    # Catalogues choose a plural by a whole number: a fraction takes the form of two.
    return ngettext(singular, plural, int(number) if number == int(number) else 2)


def write_numeral(figure: str) -> str:
    """Return a number that has a decimal point with the decimal mark of the language of the request."""
    return figure.replace(".", get_format("DECIMAL_SEPARATOR"))


def number(value: float, digits: int = 3) -> str:
    """Return a number to be read, with as many decimals as it needs, up to `digits`."""
    return write_numeral(decimal(value, digits))


def signed_number(value: float, digits: int = 0) -> str:
    """Return a number to be read, with its sign."""
    return write_numeral(signed(value, digits))


def promise(text: Text) -> "_StrPromise":
    """Return a text of one form without gaps, in the language of whoever reads it later."""
    if text.context:
        return pgettext_lazy(text.context, text.singular)
    return gettext_lazy(text.singular)


PAGES = reader_with(PLAIN)


def usual_reader() -> Reader:
    """Return the reader of nobody in particular, who names notes as is usual in the language of the request."""
    return reader_with(replace(PLAIN, solfege=language_called(get_language()).has_solfege))
