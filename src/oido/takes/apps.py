from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "oido.takes"
    label = "takes"
