"""Signing in, passwords, codes."""

from typing import Any

from django import forms
from django.contrib.auth.forms import PasswordChangeForm as DjangoPasswordChangeForm
from django.utils.translation import gettext_lazy as _


class OwnPasswordForm(forms.Form):
    """Asks for the current password before something that guards the account changes."""

    current_password = forms.CharField(
        label=_("Your password"), max_length=128, strip=False,
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}),
    )  # fmt: skip


class OwnEmailForm(OwnPasswordForm):
    """The address to which a new password can be sent; pupils need none."""

    email = forms.EmailField(
        label=_("E-mail"), required=False, max_length=254,
        help_text=_("Used to send you a new password. You do not have to give one."),
    )  # fmt: skip
    field_order = ("email", "current_password")


class ResetForm(forms.Form):
    email = forms.EmailField(label=_("Your e-mail address"), max_length=254)


class CodeForm(forms.Form):
    code = forms.CharField(
        label=_("Code on your slip"), max_length=40,
        widget=forms.TextInput(attrs={"autocomplete": "off", "autocapitalize": "characters", "spellcheck": "false"}),
        help_text=_("Three groups of four letters and digits."),
    )  # fmt: skip


class TokenForm(forms.Form):
    token = forms.CharField(
        label=_("Code from your app"), max_length=20,
        widget=forms.TextInput(attrs={"autocomplete": "one-time-code", "inputmode": "text"}),
        help_text=_("Six digits, or one of your spare codes."),
    )  # fmt: skip


class PasswordChangeForm(DjangoPasswordChangeForm):
    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.fields["old_password"].widget.attrs["autofocus"] = False
