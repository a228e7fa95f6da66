from django.urls import path

from oido.assignments import views

urlpatterns = [
    path("exercises/<int:pk>/give/", views.give, name="give"),
]
