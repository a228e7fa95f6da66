"""In which language a school, and a person in it, reads, and how things are named there."""

import zoneinfo
from typing import Any

from django import forms
from django.utils.translation import get_language
from django.utils.translation import gettext_lazy as _

from oido.common.fields import offer
from oido.common.forms import FormData, ModelForm
from oido.common.languages import BRITISH, CHOICES
from oido.people.models import MIDDLE_C, NoteNames, School, User, ValueNames

NAMING = ("value_names", "note_names", "middle_c_octave")


class SchoolNamingForm(ModelForm[School]):
    """What holds for everybody in a school who did not choose otherwise."""

    class Meta:
        model = School
        fields = NAMING

    def __init__(self, data: FormData = None, **more: Any) -> None:
        super().__init__(data, prefix="school", **more)
        if self.instance.language != BRITISH.code:
            del self.fields["value_names"]


class SchoolForm(ModelForm[School]):
    """What a school is called, which language it speaks, and by which clock it lives."""

    class Meta:
        model = School
        fields = ("name", "language", "time_zone", "staff_need_two_step")
        help_texts = {
            "language": _("Used for everyone who has not chosen a language of their own."),
            "time_zone": _("For example Europe/Lisbon. All times and due dates use this time zone."),
            "staff_need_two_step": _(
                "Heads and teachers who have not set it up yet are asked to do so on their next page."
            ),
        }

    def __init__(self, data: FormData = None, **more: Any) -> None:
        super().__init__(data, **more)
        zones = sorted(zoneinfo.available_timezones())
        self.fields["time_zone"].widget = forms.Select(choices=[(zone, zone) for zone in zones])


class OwnNamingForm(ModelForm[User]):
    """What one person has chosen differently; as in the school where nothing is chosen."""

    class Meta:
        model = User
        fields = ("language", *NAMING, "left_handed")

    def __init__(self, data: FormData = None, **more: Any) -> None:
        super().__init__(data, prefix="own", **more)
        as_in_school = ("", _("as in the school"))
        offer(self, "language", [as_in_school, *CHOICES])
        # Only British English has two sets of names for note values.
        if get_language() == BRITISH.code:
            offer(self, "value_names", [as_in_school, *ValueNames.choices])
        else:
            del self.fields["value_names"]
        offer(self, "note_names", [as_usual(self.instance), *NoteNames.choices])
        offer(self, "middle_c_octave", [as_in_school, *MIDDLE_C])


def as_usual(user: User) -> tuple[str, object]:
    """Return the choice of note names for someone who leaves them as they are."""
    is_of_school = user.school is not None and user.school.language == get_language()
    return "", _("as in the school") if is_of_school else _("as usual in this language")
