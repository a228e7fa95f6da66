from django.apps import AppConfig


class ReportsConfig(AppConfig):
    name = "oido.reports"
    label = "reports"
