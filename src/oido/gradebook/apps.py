from django.apps import AppConfig


class GradebookConfig(AppConfig):
    name = "oido.gradebook"
    label = "gradebook"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.gradebook import background, personal_data  # noqa: F401
        from oido.leaving import erasing, exporting

        erasing.MORE.append(personal_data.erase)
        exporting.MORE["gradebook"] = personal_data.read
