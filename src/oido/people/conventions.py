"""How a person has things named: the school's way, and what the person has set otherwise."""

from ear.labels import Conventions, Values
from ear.words.reader import Reader
from oido.common.readers import reader_with
from oido.people.models import User


def conventions_of(user: User) -> Conventions:
    """Return a person's conventions. Somebody without a school has the defaults."""
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
    """Return the reader for a person: the language of the request, the person’s conventions."""
    return reader_with(conventions_of(user))
