from django.apps import AppConfig


class ExercisesConfig(AppConfig):
    name = "oido.exercises"
    label = "exercises"
    doors = ("bench", "begin", "discard-begun", "booklets", "give", "make-set", "scale", "trial-stand")

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.exercises import background  # noqa: F401
