from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "oido.marking"
    label = "marking"
    doors = ("undo-marking",)

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.assignments.services import TERMS_CHANGED
        from oido.marking import attention, background  # noqa: F401
        from oido.marking.hand_in import count_late_again

        TERMS_CHANGED.append(count_late_again)
