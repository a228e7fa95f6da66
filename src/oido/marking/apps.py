from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "oido.marking"
    label = "marking"
