from django.apps import AppConfig


class FeedbackConfig(AppConfig):
    name = "oido.feedback"
    label = "feedback"
