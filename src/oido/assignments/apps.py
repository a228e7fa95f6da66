from django.apps import AppConfig


class AssignmentsConfig(AppConfig):
    name = "oido.assignments"
    label = "assignments"
