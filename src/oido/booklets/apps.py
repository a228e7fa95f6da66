from django.apps import AppConfig


class BookletsConfig(AppConfig):
    name = "oido.booklets"
    label = "booklets"
    doors = ("give-booklet",)

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.booklets import background  # noqa: F401
