from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "oido.people"
    label = "people"
