from django.contrib.auth.views import LogoutView
from django.urls import path

from oido.access import views

urlpatterns = [
    path("sign-in/", views.SignIn.as_view(), name="sign-in"),
    path("sign-out/", LogoutView.as_view(), name="sign-out"),
    path("sign-in/second/", views.second_factor, name="second-factor"),
    path("slip/", views.slip, name="slip"),
    path("slip/password/", views.choose_password, name="choose-password"),
    path("slip/<slug:code>/", views.slip_by_picture, name="slip-by-picture"),
    path("password/", views.change_password, name="change-password"),
    path("password/reset/", views.ask_reset, name="ask-reset"),
    path("password/reset/<slug:uid>/<slug:token>/", views.reset_password, name="reset-password"),
    path("account/", views.account, name="account"),
    path("account/email/<slug:token>/", views.confirm_email, name="confirm-email"),
    path("account/sessions/<int:pk>/end/", views.end_one, name="end-session"),
    path("account/sessions/end/", views.end_others, name="end-sessions"),
    path("account/second/", views.set_up_second_factor, name="set-up-second-factor"),
    path("account/second/off/", views.remove_second_factor, name="drop-second-factor"),
]
