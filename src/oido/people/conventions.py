"""How a person has things named: the school's way, and what the person has set otherwise."""

from django.utils.translation import gettext, ngettext

from ear.labels import Conventions, Values
from ear.words.reader import Reader
from oido.people.models import User


def conventions_of(user: User) -> Conventions:
    """What holds for a person; a person of no school has the plain ones."""
    school = user.school

    def chosen(name: str, plain: object) -> object:
        own = getattr(user, name)
        if own not in (None, ""):
            return own
        return getattr(school, name) if school is not None else plain

    return Conventions(
        values=Values(str(chosen("value_names", Values.BRITISH.value))),
        middle_c_octave=int(str(chosen("middle_c_octave", 4))),
        solfege=chosen("note_names", "letters") == "solfege",
        left_handed=bool(user.left_handed),
    )


def reader_of(user: User) -> Reader:
    """Who reads: the language of the request, the person's conventions."""
    return Reader(conventions=conventions_of(user), gettext=gettext, ngettext=_ngettext)


def _ngettext(singular: str, plural: str, number: float) -> str:
    # A half beat is told in the plural, as all but one is.
    return ngettext(singular, plural, int(number) if number == int(number) else 2)
