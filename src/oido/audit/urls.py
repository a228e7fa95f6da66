from django.urls import path

from oido.audit import views

urlpatterns = [
    path("school/trail/", views.trail, name="trail"),
    path("school/trail.csv", views.trail_csv, name="trail-csv"),
]
