"""How a person has things named: by their own choice, or else as their school does, or else as is usual in their language."""

from django.utils.translation import get_language

from ear.conventions import Conventions, Values
from ear.reader import Reader
from oido.common.languages import BRITISH, language_called
from oido.common.readers import reader_with
from oido.people.models import MIDDLE_C, NoteNames, User


def conventions_of(user: User) -> Conventions:
    """Return a person's conventions in the active language.

    A school names things in its own language; someone who reads another one finds what is usual there.
    """
    school, language = user.school, language_called(get_language())
    shared = school if school is not None and school.language == language.code else None
    note_names = user.note_names or (shared.note_names if shared else "")
    values = user.value_names or (shared.value_names if shared else "")
    octave = user.middle_c_octave or (school.middle_c_octave if school is not None else MIDDLE_C[0][0])
    return Conventions(
        values=Values(values)
        if values and language == BRITISH
        else _usual_values(language.has_american_values),
        middle_c_octave=octave,
        solfege=note_names == NoteNames.SOLFEGE if note_names else language.has_solfege,
        left_handed=bool(user.left_handed),
    )


def _usual_values(is_american: bool) -> Values:
    return Values.AMERICAN if is_american else Values.BRITISH


def reader_of(user: User) -> Reader:
    """Return the reader for a person: the language of the request, the person’s conventions."""
    return reader_with(conventions_of(user))
