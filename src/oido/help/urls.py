from django.urls import path

from oido.help import views

urlpatterns = [
    path("", views.index, name="help"),
    path("<slug:slug>/", views.guide, name="guide"),
]
