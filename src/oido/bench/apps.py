from django.apps import AppConfig


class BenchConfig(AppConfig):
    name = "oido.bench"
    label = "bench"
