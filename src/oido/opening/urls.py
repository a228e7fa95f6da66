from django.urls import path

from oido.opening import views

urlpatterns = [
    path("setup/", views.setup, name="set-up"),
    path("first-steps/", views.steps, name="first-steps"),
    path("first-steps/dismiss/", views.dismiss, name="dismiss-step"),
]
