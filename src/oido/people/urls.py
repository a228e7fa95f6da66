from django.urls import path

from oido.people import views

urlpatterns = [
    path("schools/<int:pk>/", views.choose_school, name="choose-school"),
    path("naming/", views.naming, name="naming"),
]
