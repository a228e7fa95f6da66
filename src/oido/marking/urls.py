from django.urls import path

from oido.marking import views

urlpatterns = [
    path("", views.home, name="home"),
    path("marking/", views.marking, name="marking"),
    path("takes/<uuid:pk>/", views.take, name="take"),
    path("takes/<uuid:pk>/hand-in/", views.hand_in, name="hand-in"),
    path("takes/<uuid:pk>/mark/<slug:criterion>/", views.change_score, name="change-score"),
    path("takes/<uuid:pk>/remarks/", views.remark, name="remark"),
    path("takes/<uuid:pk>/remarks/<int:number>/remove/", views.remove_remark, name="remove-remark"),
    path("takes/<uuid:pk>/release/", views.release, name="release"),
]
