from django import forms
from django.apps import AppConfig

from oido.common import doors  # noqa: F401  # its check
from oido.common.text import validate_printable


class CommonConfig(AppConfig):
    name = "oido.common"
    label = "common"
    doors = (
        "home",
        "sign-in",
        "sign-out",
        "account",
        "exercises",
        "classes",
        "marking",
        "school",
        "progress",
        "help",
        "guide",
    )

    def ready(self) -> None:
        # Django refuses NUL in every text field of every form; Oido refuses the other control characters there too.
        for field in (forms.CharField, forms.EmailField, forms.SlugField, forms.URLField):
            field.default_validators = [*field.default_validators, validate_printable]
