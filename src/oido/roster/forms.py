"""People and classes, as they are written down by hand."""

from datetime import timedelta
from typing import Any

from django import forms
from django.core.validators import RegexValidator
from django.utils import timezone
from django.utils.translation import gettext_lazy as _
from django.utils.translation import pgettext_lazy

from oido.common.fields import DateInWords, offer, offer_rows
from oido.common.forms import FormData, SetPasswordMixin
from oido.people.models import Role, SchoolClass, User
from oido.people.queries import classes_seen
from oido.roster.joining import MAX_OPEN, OPEN_DAYS
from oido.roster.lists import MAX_NAME_LENGTH

MAX_FILE_BYTES = 2_000_000
MAX_TEXT_LENGTH = 400_000
TAKEN = _("That sign-in name is taken. Choose another.")
PLAIN_NAME = RegexValidator(r"^[\w.+-]+$", _("Letters, digits and . + - _ only."))


class PersonForm(forms.Form):
    """What is known of somebody."""

    first = forms.CharField(label=_("First name"), max_length=MAX_NAME_LENGTH)
    last = forms.CharField(label=_("Last name"), max_length=MAX_NAME_LENGTH, required=False)
    username = forms.CharField(
        label=_("Sign-in name"), max_length=MAX_NAME_LENGTH, required=False, validators=[PLAIN_NAME],
        help_text=_("Leave empty to have one made from the name."),
    )  # fmt: skip
    email = forms.EmailField(
        label=_("E-mail"), required=False, help_text=_("Not needed: students sign in with a slip.")
    )

    def clean_username(self) -> str:
        name: str = self.cleaned_data["username"].lower()
        return name


class ChangePersonForm(PersonForm):
    """Their own address people change on their account page, with their password."""

    def __init__(self, data: FormData = None, *, is_own: bool, **more: Any) -> None:
        super().__init__(data, **more)
        self.fields["username"].required = True
        self.fields["username"].help_text = ""
        self.fields["email"].help_text = _("A new address is used once its owner has confirmed it.")
        if is_own:
            self.fields["email"].disabled = True
            self.fields["email"].help_text = _("Change your own address on your account page.")


class AddPersonForm(PersonForm):
    role = forms.ChoiceField(label=_("Role"))
    school_class = forms.ModelChoiceField(
        label=pgettext_lazy("label", "Class"),
        queryset=SchoolClass.objects.none(),
        required=False,
        empty_label=_("none yet"),
    )

    def __init__(self, data: FormData = None, *, by: User, **more: Any) -> None:
        super().__init__(data, **more)
        offer(self, "role", Role.choices[::-1] if by.is_head else [(Role.STUDENT.value, Role.STUDENT.label)])
        offer_rows(self, "school_class", classes_seen(by).filter(archived_at=None))
        if not by.is_head:
            self.fields["school_class"].required = True


class RoleForm(forms.Form):
    role = forms.ChoiceField(label=_("Role"), choices=Role.choices)


class ListForm(forms.Form):
    """A list, pasted or as a file."""

    text = forms.CharField(
        label=_("Paste a list"), required=False, max_length=MAX_TEXT_LENGTH, widget=forms.Textarea(attrs={"rows": 8}),
        help_text=_("From a spreadsheet, with its headings; or one name a line."),
    )  # fmt: skip
    file = forms.FileField(
        label=_("or a file"), required=False,
        help_text=_("CSV with any separator and encoding, or a OneRoster archive (.zip); up to 2 MB."),
    )  # fmt: skip
    school_class = forms.ModelChoiceField(
        label=_("Into the class"), queryset=SchoolClass.objects.none(), required=False,
        empty_label=_("as the list says"),
    )  # fmt: skip

    def __init__(self, data: FormData = None, *, by: User, **more: Any) -> None:
        super().__init__(data, **more)
        classes = classes_seen(by).filter(archived_at=None)
        offer_rows(self, "school_class", classes)
        if not by.is_head:
            field = self.fields["school_class"]
            assert isinstance(field, forms.ModelChoiceField)
            field.required, field.empty_label = True, _("choose a class")
            if not self.initial.get("school_class") and classes.count() == 1:
                self.initial["school_class"] = classes.get()

    def clean(self) -> dict[str, Any]:
        cleaned: dict[str, Any] = super().clean() or {}
        file = cleaned.get("file")
        if not file and not cleaned.get("text", "").strip():
            raise forms.ValidationError(_("Paste a list, or choose a file."))
        if file and file.size > MAX_FILE_BYTES:
            self.add_error("file", _("This file is too large for a list of people (over 2 MB)."))
        return cleaned


class ClassForm(forms.Form):
    name = forms.CharField(label=_("Name of the class"), max_length=80)


class ForwardForm(forms.Form):
    """The name of next year's class."""

    next_name = forms.CharField(label=_("Name of the new class"), max_length=80)


class CodeEndsForm(forms.Form):
    ends_on = forms.DateField(label=_("Open until"), widget=DateInWords())

    def __init__(self, data: FormData = None, **more: Any) -> None:
        super().__init__(data, **more)
        self.fields["ends_on"].initial = timezone.localdate() + timedelta(days=OPEN_DAYS)

    def clean_ends_on(self) -> Any:
        day = self.cleaned_data["ends_on"]
        if not timezone.localdate() <= day <= timezone.localdate() + MAX_OPEN:
            raise forms.ValidationError(
                _("Choose a day from today on, at most %(days)s days ahead."), params={"days": MAX_OPEN.days}
            )
        return day


class InviteForm(forms.Form):
    invited_email = forms.EmailField(label=_("E-mail"), max_length=254)
    invited_role = forms.ChoiceField(label=_("Role"))
    invited_class = forms.ModelChoiceField(
        label=pgettext_lazy("label", "Class"),
        queryset=SchoolClass.objects.none(),
        required=False,
        empty_label=_("none yet"),
    )

    def __init__(self, data: FormData = None, *, by: User, **more: Any) -> None:
        super().__init__(data, **more)
        choices = Role.choices if by.is_head else [(Role.STUDENT.value, Role.STUDENT.label)]
        offer(self, "invited_role", choices)
        offer_rows(self, "invited_class", classes_seen(by).filter(archived_at=None))
        if not by.is_head:
            self.fields["invited_class"].required = True


class NewAccountForm(SetPasswordMixin[User], forms.Form):
    """Who comes in by a code or an invitation, and is not known yet."""

    first = forms.CharField(label=_("First name"), max_length=MAX_NAME_LENGTH)
    last = forms.CharField(label=_("Last name"), max_length=MAX_NAME_LENGTH, required=False)
    username = forms.CharField(
        label=_("Sign-in name"), max_length=MAX_NAME_LENGTH, required=False, validators=[PLAIN_NAME],
        help_text=_("Leave empty to have one made from your name."),
    )  # fmt: skip
    password1, password2 = SetPasswordMixin.create_password_fields(
        label1=_("Password"), label2=_("Repeat password")
    )

    def clean(self) -> dict[str, Any]:
        self.validate_passwords("password1", "password2")
        fields = self.cleaned_data
        somebody = User(
            username=fields.get("username", ""),
            first_name=fields.get("first", ""),
            last_name=fields.get("last", ""),
        )
        self.validate_password_for_user(somebody, "password1")
        return super().clean() or {}
