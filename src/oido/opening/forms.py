"""The first form that anybody fills in."""

import zoneinfo

from django import forms
from django.utils.translation import get_language
from django.utils.translation import gettext_lazy as _

from oido.common.forms import SetPasswordMixin
from oido.common.languages import CHOICES
from oido.people.models import User
from oido.roster.forms import PLAIN_NAME
from oido.roster.lists import MAX_NAME_LENGTH


class SetUpForm(SetPasswordMixin[User], forms.Form):
    code = forms.CharField(
        label=_("Setup code"), max_length=40,
        help_text=_("It was shown when Oido was started. It works once."),
        widget=forms.TextInput(attrs={"autocomplete": "off", "autocapitalize": "characters", "spellcheck": "false"}),
    )  # fmt: skip
    school = forms.CharField(label=_("Name of the school"), max_length=120)
    language = forms.ChoiceField(label=_("Language"), choices=CHOICES, initial=get_language)
    time_zone = forms.ChoiceField(
        label=_("Time zone"), choices=[(zone, zone) for zone in sorted(zoneinfo.available_timezones())],
        initial="UTC", help_text=_("Type a city, such as London. Due dates are in this time zone."),
        widget=forms.TextInput(attrs={"list": "time-zones", "autocomplete": "off", "spellcheck": "false"}),
        error_messages={"invalid_choice": _("Choose a time zone from the list, such as Europe/London.")},
    )  # fmt: skip
    first = forms.CharField(label=_("Your first name"), max_length=MAX_NAME_LENGTH)
    last = forms.CharField(label=_("Your last name"), max_length=MAX_NAME_LENGTH, required=False)
    username = forms.CharField(
        label=_("Your sign-in name"), max_length=MAX_NAME_LENGTH, validators=[PLAIN_NAME]
    )
    email = forms.EmailField(label=_("Your e-mail"), required=False, help_text=_("Not needed."))
    password1, password2 = SetPasswordMixin.create_password_fields(
        label1=_("Password"), label2=_("Repeat password")
    )

    def clean_username(self) -> str:
        name: str = self.cleaned_data["username"].lower()
        return name

    def clean(self) -> dict[str, object]:
        self.validate_passwords("password1", "password2")
        fields = self.cleaned_data
        somebody = User(
            username=fields.get("username", ""),
            first_name=fields.get("first", ""),
            last_name=fields.get("last", ""),
        )
        self.validate_password_for_user(somebody, "password1")
        return super().clean() or {}
