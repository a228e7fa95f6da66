from django.apps import AppConfig


class ProgressConfig(AppConfig):
    name = "oido.progress"
    label = "progress"
