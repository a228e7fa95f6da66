from django.urls import path

from oido.takes import views

urlpatterns = [
    path("takes/<uuid:pk>/notes.json", views.take_notes, name="take-notes"),
    path("takes/<uuid:pk>/take.mid", views.take_file, name="take-file"),
    path("takes/<uuid:pk>/take.<str:ending>", views.take_sound, name="take-sound"),
]
