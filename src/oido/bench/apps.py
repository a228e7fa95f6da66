from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "oido.bench"
    label = "bench"

    def ready(self) -> None:
        # Models are loaded only now.
        from oido.bench.versions import versions_panel
        from oido.exercises.panels import PANELS, Panel

        PANELS.append(Panel("bench/_versions_panel.html", versions_panel, place=3))
