from django.urls import path, re_path

from oido.jobs.exports import pattern
from oido.takes import views
from oido.takes.exports import EXPORTS

TAKE = r"takes/(?P<pk>[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12})"

urlpatterns = [
    path("takes/<uuid:pk>/notes.json", views.take_notes, name="take-notes"),
    re_path(rf"^{TAKE}/(?P<file>{pattern(EXPORTS)})$", views.export, name="take-export"),
]
