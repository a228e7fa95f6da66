from django.contrib.auth.decorators import login_not_required
from django.urls import include, path

from oido.common.offline import offline, offline_worker
from oido.common.style import style
from oido.common.words import words

urlpatterns = [
    path("", include("oido.people.urls")),
    path("", include("oido.audit.urls")),
    path("", include("oido.post.urls")),
    path("", include("oido.access.urls")),
    path("", include("oido.jobs.urls")),
    path("exercises/", include("oido.exercises.urls")),
    path("", include("oido.booklets.urls")),
    path("bench/", include("oido.bench.urls")),
    path("", include("oido.rubrics.urls")),
    path("", include("oido.assignments.urls")),
    path("", include("oido.takes.urls")),
    path("", include("oido.roster.urls")),
    path("", include("oido.reports.urls")),
    path("", include("oido.progress.urls")),
    path("", include("oido.stand.urls")),
    path("", include("oido.desk.urls")),
    path("", include("oido.leaving.urls")),
    path("", include("oido.gradebook.urls")),
    path("", include("oido.classes.urls")),
    path("", include("oido.opening.urls")),
    path("", include("oido.home.urls")),
    path("help/", include("oido.help.urls")),
    path("style/", login_not_required(style), name="style"),
    path("offline/", login_not_required(offline), name="offline"),
    path("offline.js", login_not_required(offline_worker), name="offline-worker"),
    path("words.js", login_not_required(words), name="words"),
]

handler400 = "oido.common.refusals.bad_request"
handler403 = "oido.common.refusals.forbidden"
handler404 = "oido.common.refusals.not_found"
handler500 = "oido.common.refusals.failed"
