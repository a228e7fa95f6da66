from django.apps import AppConfig


class RubricsConfig(AppConfig):
    name = "oido.rubrics"
    label = "rubrics"
