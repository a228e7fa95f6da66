from django.urls import path, re_path

from oido.takes import views

urlpatterns = [
    path("takes/<uuid:pk>/notes.json", views.take_notes, name="take-notes"),
    path("takes/<uuid:pk>/take.mid", views.take_file, name="take-file"),
    re_path(
        r"^takes/(?P<pk>[0-9a-f-]{36})/take\.(?P<ending>wav|mp3|ogg)$", views.take_sound, name="take-sound"
    ),
]
