"""What forms are made from."""

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from django import forms
from django.contrib.auth.forms import SetPasswordMixin as _SetPasswordMixin

FormData = Mapping[str, Any] | None
"""What was sent; None for a form that is shown for the first time."""

if TYPE_CHECKING:
    ModelForm = forms.ModelForm
    SetPasswordMixin = _SetPasswordMixin
else:
    # The types of both are generic, the classes are not.
    class ModelForm(forms.ModelForm):
        def __class_getitem__(cls, model):
            return cls

    class SetPasswordMixin(_SetPasswordMixin):
        def __class_getitem__(cls, person):
            return cls
