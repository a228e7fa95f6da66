from django.apps import AppConfig


class HomeConfig(AppConfig):
    name = "oido.home"
    label = "home"
