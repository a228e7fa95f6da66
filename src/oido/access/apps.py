from django.apps import AppConfig


class AccessConfig(AppConfig):
    name = "oido.access"
    label = "access"
    doors = ("export-own", "single-sign-on")

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.access import background, sessions  # noqa: F401
