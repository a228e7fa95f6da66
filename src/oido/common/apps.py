from django import forms
from django.apps import AppConfig

from oido.common.text import validate_printable


class CommonConfig(AppConfig):
    name = "oido.common"
    label = "common"

    def ready(self) -> None:
        # Django refuses NUL in every text field of every form; Oido refuses the other control characters there too.
        forms.CharField.default_validators = [validate_printable]
