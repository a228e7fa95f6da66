from django.apps import AppConfig


class ExercisesConfig(AppConfig):
    name = "oido.exercises"
    label = "exercises"
