from django import forms
from django.utils.translation import gettext_lazy as _

from oido.common.fields import DateInWords
from oido.common.forms import ModelForm
from oido.leaving.models import Term
from oido.people.models import School


class TermForm(ModelForm[Term]):
    class Meta:
        model = Term
        fields = ("name", "begins_on", "ends_on")
        widgets = {name: DateInWords() for name in ("begins_on", "ends_on")}


class RetentionForm(ModelForm[School]):
    class Meta:
        model = School
        fields = ("keep_months",)
        help_texts = {"keep_months": _("Leave empty to keep them as long as the school exists.")}


class EraseForm(forms.Form):
    """Typed, so that nobody is erased by a slip of the hand."""

    sure = forms.CharField(label=_("Type their sign-in name to confirm"), max_length=150)
