from django.urls import path, re_path

from oido.exercises.exports import BY_FILE
from oido.exercises.rule_texts import CHOICES
from oido.exercises.views import free, importing, ladder, library, outputs, pages, practice, ready_made
from oido.jobs.exports import pattern

urlpatterns = [
    path("", library.exercise_list, name="exercises"),
    re_path(rf"^do/(?P<act>{'|'.join(library.ACTS)})/$", library.act, name="act-on-exercises"),
    path("free/", free.new, name="new-free"),
    path("<int:pk>/free/", free.change, name="change-free"),
    path("new/", importing.upload, name="new-exercise"),
    path("import/<int:pk>/", importing.import_file, name="import"),
    path("ready-made/", ready_made.ready_made, name="ready-made"),
    path("ready-made/add/", ready_made.add, name="add-ready-made"),
    path("ready-made/<slug:name>/", ready_made.ready_piece, name="ready-piece"),
    path("ready-made/<slug:name>/notation/", ready_made.ready_notation, name="ready-notation"),
    path("<int:pk>/", pages.exercise, name="exercise"),
    path("<int:pk>/copy/", library.copy, name="copy-exercise"),
    path("<int:pk>/rules/", practice.rules, name="rules"),
    re_path(rf"^(?P<pk>\d+)/rules/(?P<choice>{'|'.join(CHOICES)})/$", practice.rule, name="rule"),
    path("<int:pk>/ladder/", ladder.ladder, name="ladder"),
    path("<int:pk>/variation/", practice.variation, name="variation"),
    path("<int:pk>/notation/", outputs.notation, name="notation"),
    re_path(rf"^(?P<pk>\d+)/(?P<file>{pattern(BY_FILE.values())})$", outputs.export, name="export"),
]
