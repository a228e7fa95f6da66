from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "oido.desk"
    label = "desk"
