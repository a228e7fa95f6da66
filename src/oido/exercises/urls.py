from django.urls import path, re_path

from oido.exercises.exports import BY_FILE
from oido.exercises.views import importing, outputs, pages, practice
from oido.jobs.exports import pattern

urlpatterns = [
    path("", pages.exercise_list, name="exercises"),
    path("new/", importing.upload, name="new-exercise"),
    path("import/<int:pk>/", importing.import_file, name="import"),
    path("<int:pk>/", pages.exercise, name="exercise"),
    path("<int:pk>/delete/", pages.delete, name="delete-exercise"),
    path("<int:pk>/rules/", practice.rules, name="rules"),
    path("<int:pk>/ladder/", practice.ladder, name="ladder"),
    path("<int:pk>/variation/", practice.variation, name="variation"),
    path("<int:pk>/notation/", outputs.notation, name="notation"),
    re_path(rf"^(?P<pk>\d+)/(?P<file>{pattern(BY_FILE.values())})$", outputs.export, name="export"),
]
