"""Texts with named gaps. A text is its own key for a translation.

The marks are named as gettext's tools look for them, so that texts of the core are gathered with those
of the pages.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Text:
    """`plural` is for all numbers but one, by the value named `by`; empty where the text counts nothing. `context` tells
    short words apart that other languages have two words for."""

    singular: str
    plural: str = ""
    by: str = "count"
    context: str = ""


def gettext_noop(text: str) -> Text:
    """Return a text to be translated when it is said. Tools that gather texts look for this name."""
    return Text(singular=text)


def pgettext_lazy(context: str, text: str) -> Text:
    """Return a text with a context, to be translated when it is said."""
    return Text(singular=text, context=context)


def term(name: str) -> str:
    """Return a name of the core's tables as it is; a mark for the tools that gather what is to be translated."""
    return name


def ngettext_lazy(singular: str, plural: str, by: str = "count") -> Text:
    """Return a text with two forms, chosen by the value named `by`."""
    return Text(singular=singular, plural=plural, by=by)


EMPTY = Text(singular="")
