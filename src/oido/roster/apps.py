from django.apps import AppConfig


class RosterConfig(AppConfig):
    name = "oido.roster"
    label = "roster"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.roster import background  # noqa: F401
