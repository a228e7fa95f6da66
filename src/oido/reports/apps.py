from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "oido.reports"
    label = "reports"
    doors = ("hand-in", "accept", "take-back-release", "ask-again", "phrases")

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.reports import background  # noqa: F401
