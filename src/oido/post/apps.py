from django.apps import AppConfig


class PostConfig(AppConfig):
    name = "oido.post"
    label = "post"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.post import services  # noqa: F401
