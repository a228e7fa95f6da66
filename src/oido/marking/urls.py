from django.urls import path

from oido.marking import handing_in, views

urlpatterns = [
    path("", views.home, name="home"),
    path("marking/", views.marking, name="marking"),
    path("takes/<uuid:pk>/", views.take, name="take"),
    path("stand/<int:pk>/hand-in/", handing_in.hand_in, name="hand-in"),
    path("stand/<int:pk>/receipt/", handing_in.receipt, name="receipt"),
    path("stand/<int:pk>/compare/", handing_in.compare, name="compare"),
    path("takes/<uuid:pk>/mark/<slug:criterion>/", views.change_score, name="change-score"),
    path("takes/<uuid:pk>/remarks/", views.remark, name="remark"),
    path("takes/<uuid:pk>/remarks/<int:number>/remove/", views.remove_remark, name="remove-remark"),
    path("takes/<uuid:pk>/release/", views.release, name="release"),
]
