from django.apps import AppConfig


class AssignmentsConfig(AppConfig):
    name = "oido.assignments"
    label = "assignments"
    doors = ("watch", "assignment", "given-booklet", "class", "stand")

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.assignments.panel import assignments_panel
        from oido.exercises.panels import PANELS, Panel

        PANELS.append(Panel("assignments/_given.html", assignments_panel, place=1))
