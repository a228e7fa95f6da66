from django.apps import AppConfig


class StandConfig(AppConfig):
    name = "oido.stand"
    label = "stand"
