from django.apps import AppConfig


class CommonConfig(AppConfig):
    name = "oido.common"
    label = "common"
