from django.apps import AppConfig


class LeavingConfig(AppConfig):
    name = "oido.leaving"
    label = "leaving"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.leaving import background  # noqa: F401
