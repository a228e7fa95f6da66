from django.apps import AppConfig


class GradebookConfig(AppConfig):
    name = "oido.gradebook"
    label = "gradebook"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.gradebook import about_person, background  # noqa: F401
        from oido.leaving import erasing, exporting

        erasing.MORE.append(about_person.erase)
        exporting.MORE["gradebook"] = about_person.read
