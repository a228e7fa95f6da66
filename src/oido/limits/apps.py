from django.apps import AppConfig


class LimitsConfig(AppConfig):
    name = "oido.limits"
    label = "limits"

    def ready(self) -> None:
        from oido.limits import background  # noqa: F401
