from django import forms
from django.utils.translation import pgettext_lazy

from oido.takes.models import MAX_NAME_LENGTH

MAX_ANSWER_LENGTH = 2000


class NameForm(forms.Form):
    name = forms.CharField(label=pgettext_lazy("label", "name"), required=False, max_length=MAX_NAME_LENGTH)
