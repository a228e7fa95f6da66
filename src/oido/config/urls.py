from django.urls import include, path
from django.views.i18n import JavaScriptCatalog

urlpatterns = [
    path("", include("oido.people.urls")),
    path("exercises/", include("oido.exercises.urls")),
    path("", include("oido.assignments.urls")),
    path("", include("oido.takes.urls")),
    path("", include("oido.marking.urls")),
    path("words.js", JavaScriptCatalog.as_view(packages=["oido.common"]), name="words"),
]
