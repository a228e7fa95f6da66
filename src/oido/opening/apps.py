from django.apps import AppConfig


class OpeningConfig(AppConfig):
    name = "oido.opening"
    label = "opening"
