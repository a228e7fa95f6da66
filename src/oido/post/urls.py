from django.urls import path

from oido.post import views

urlpatterns = [
    path("school/outbox/", views.outbox, name="outbox"),
    path("school/outbox/<int:pk>/again/", views.again, name="send-again"),
]
