from django.urls import path

from oido.home import views

urlpatterns = [
    path("", views.home, name="home"),
    path("five-minutes/", views.five_minutes_today, name="five-minutes"),
]
