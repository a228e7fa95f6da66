from django.apps import AppConfig


class ClassesConfig(AppConfig):
    name = "oido.classes"
    label = "classes"
