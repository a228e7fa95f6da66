from django.apps import AppConfig


class OperationsConfig(AppConfig):
    name = "oido.operations"
    label = "operations"

    def ready(self) -> None:
        from oido.operations import background  # noqa: F401
