from django.apps import AppConfig


class HelpConfig(AppConfig):
    name = "oido.help"
    label = "help"
