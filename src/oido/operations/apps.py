from django.apps import AppConfig


class OperationsConfig(AppConfig):
    name = "oido.operations"
    label = "operations"
