from django.apps import AppConfig


class OpeningConfig(AppConfig):
    name = "oido.opening"
    label = "opening"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.leaving import erasing
        from oido.opening.models import DismissedStep

        erasing.MORE.append(lambda person: DismissedStep.objects.filter(person=person).delete())
