from django.apps import AppConfig


class TakesConfig(AppConfig):
    name = "oido.takes"
    label = "takes"
    doors = ("take",)

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.takes import background  # noqa: F401
