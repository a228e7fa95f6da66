from django.urls import path

from oido.home import views

urlpatterns = [path("", views.home, name="home")]
