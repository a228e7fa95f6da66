from django.urls import path, re_path

from oido.gradebook.exports import BY_FILE
from oido.gradebook.views import book, outputs
from oido.jobs.exports import pattern

CLASS = r"^classes/(?P<pk>\d{1,18})"
COLUMN = rf"{CLASS}/marks/(?P<key>[ac]\d{{1,18}})"

urlpatterns = [
    path("classes/<int:pk>/marks/", book.gradebook, name="gradebook"),
    path("classes/<int:pk>/marks/columns/", book.add_column, name="add-column"),
    re_path(rf"{COLUMN}/$", book.column, name="column"),
    re_path(rf"{COLUMN}/(?P<student>\d{{1,18}})/$", book.cell, name="cell"),
    re_path(rf"{CLASS}/(?P<file>{pattern(BY_FILE.values())})$", outputs.export, name="gradebook-export"),
    path("classes/<int:pk>/reports/", outputs.reports, name="term-reports"),
    path("classes/<int:pk>/reports/<int:student>/", outputs.report, name="term-report"),
]
