from django.urls import path

from oido.takes import views

urlpatterns = [
    path("stand/<int:pk>/", views.stand, name="stand"),
    path("stand/<int:pk>/notation/", views.stand_notation, name="stand-notation"),
    path("stand/<int:pk>/takes/", views.upload, name="upload-take"),
    path("stand/<int:pk>/robot/", views.robot, name="robot"),
    path("takes/<uuid:pk>/notes.json", views.take_notes, name="take-notes"),
    path("takes/<uuid:pk>/take.mid", views.take_file, name="take-file"),
]
