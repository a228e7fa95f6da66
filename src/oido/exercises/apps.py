from django.apps import AppConfig


class ExercisesConfig(AppConfig):
    name = "oido.exercises"
    label = "exercises"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.exercises import background  # noqa: F401
