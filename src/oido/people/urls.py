from django.contrib.auth.views import LogoutView
from django.urls import path

from oido.people import views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("schools/<int:pk>/", views.choose_school, name="choose-school"),
    path("naming/", views.naming, name="naming"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
]
