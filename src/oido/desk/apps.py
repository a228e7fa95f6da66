from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "oido.desk"
    label = "desk"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.exercises.panels import PANELS, Panel

        # It is read once the page is there: many takes take a while.
        PANELS.append(Panel("desk/_results_later.html", lambda request, exercise: {}, place=2))
