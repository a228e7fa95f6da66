from django.apps import AppConfig


class AuditConfig(AppConfig):
    name = "oido.audit"
    label = "audit"
