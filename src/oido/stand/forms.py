from django import forms
from django.utils.translation import gettext_lazy as _

from oido.takes.models import NAME_MOST

ANSWER_MOST = 2000


class NameForm(forms.Form):
    name = forms.CharField(label=_("name"), required=False, max_length=NAME_MOST)
