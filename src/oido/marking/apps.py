from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "oido.marking"
    label = "marking"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.marking import background  # noqa: F401
