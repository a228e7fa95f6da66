from django.apps import AppConfig


class AssignmentsConfig(AppConfig):
    name = "oido.assignments"
    label = "assignments"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.assignments.panel import given_panel
        from oido.exercises.panels import PANELS, Panel

        PANELS.append(Panel("assignments/_given.html", given_panel, place=1))
