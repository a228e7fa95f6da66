from django.urls import path, re_path

from oido.exercises.views import importing, outputs, pages, practice

urlpatterns = [
    path("", pages.exercise_list, name="exercises"),
    path("new/", importing.upload, name="new-exercise"),
    path("import/<int:pk>/", importing.import_file, name="import"),
    path("<int:pk>/", pages.exercise, name="exercise"),
    path("<int:pk>/rules/", practice.rules, name="rules"),
    path("<int:pk>/ladder/", practice.ladder, name="ladder"),
    path("<int:pk>/variation/", practice.variation, name="variation"),
    path("<int:pk>/notation/", outputs.notation, name="notation"),
    path("<int:pk>/part.mid", outputs.midi, name="exercise-file"),
    re_path(r"^(?P<pk>\d+)/part\.(?P<ending>musicxml|mxl)$", outputs.musicxml, name="exercise-musicxml"),
    path("<int:pk>/sheet.pdf", outputs.sheet, name="exercise-sheet"),
    re_path(r"^(?P<pk>\d+)/part\.(?P<ending>wav|mp3|ogg)$", outputs.sound, name="exercise-sound"),
    path("<int:pk>/bundle.zip", outputs.bundle, name="exercise-bundle"),
]
