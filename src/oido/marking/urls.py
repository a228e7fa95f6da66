from django.urls import path

from oido.marking.views import handing_in, home, marks, reports

urlpatterns = [
    path("", home.home, name="home"),
    path("marking/", marks.marking, name="marking"),
    path("takes/<uuid:pk>/", reports.take, name="take"),
    path("takes/<uuid:pk>/rows/", reports.rows, name="take-rows"),
    path("takes/<uuid:pk>/notes/<slug:name>/", reports.note, name="take-note"),
    path("takes/<uuid:pk>/notation/", reports.notation, name="take-notation"),
    path("stand/<int:pk>/hand-in/", handing_in.hand_in, name="hand-in"),
    path("stand/<int:pk>/receipt/", handing_in.receipt, name="receipt"),
    path("stand/<int:pk>/compare/", handing_in.compare, name="compare"),
    path("takes/<uuid:pk>/mark/<slug:criterion>/", marks.change_score, name="change-score"),
    path("takes/<uuid:pk>/remarks/", marks.remark, name="remark"),
    path("takes/<uuid:pk>/remarks/<int:number>/remove/", marks.remove_remark, name="remove-remark"),
    path("takes/<uuid:pk>/release/", marks.release, name="release"),
]
