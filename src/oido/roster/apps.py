from django.apps import AppConfig


class RosterConfig(AppConfig):
    name = "oido.roster"
    label = "roster"
    doors = ("terms", "student-progress", "export-person", "erase-person")

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.roster import background  # noqa: F401
