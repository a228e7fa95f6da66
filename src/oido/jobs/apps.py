from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "oido.jobs"
    label = "jobs"
