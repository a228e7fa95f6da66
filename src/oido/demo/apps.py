from django.apps import AppConfig


class DemoConfig(AppConfig):
    name = "oido.demo"
    label = "demo"
