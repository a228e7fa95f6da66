from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "oido.reports"
    label = "reports"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.reports import background  # noqa: F401
