from django.urls import path, re_path

from oido.desk import undoing
from oido.desk.views import assignment, booklet, phrases, queue, results, watch

urlpatterns = [
    path("marking/", queue.marking, name="marking"),
    path("marking/release/", queue.release_accepted, name="release-accepted"),
    path("booklets/given/<int:pk>/", booklet.booklet_assignment, name="given-booklet"),
    re_path(
        r"^booklets/given/(?P<pk>\d{1,18})/(?P<student>\d{1,18})\.(?P<ending>mid|wav|ogg|mp3)$",
        booklet.heard_as_one,
        name="heard-as-one",
    ),
    path("marking/undo/", undoing.undo, name="undo-marking"),
    path("marking/phrases/", phrases.phrases, name="phrases"),
    path("assignments/<int:pk>/", assignment.assignment, name="assignment"),
    path("exercises/<int:pk>/came-of-it/", results.results, name="came-of-it"),
    path("assignments/<int:pk>/who/", watch.watch, name="watch"),
    path("assignments/<int:pk>/rubric/", assignment.try_rubric, name="try-rubric"),
    path("assignments/<int:pk>/bars/", assignment.exercise_of_bars, name="exercise-of-bars"),
    path("remarkings/<int:pk>/", assignment.remarking_job, name="remarking"),
    path("assignments/<int:pk>/clear/", queue.clear_cases, name="clear-cases"),
    path("assignments/<int:pk>/clear/accept/", queue.accept_clear, name="accept-clear"),
    path("marking/measuring/", queue.measuring, name="remeasuring"),
    path("takes/<uuid:pk>/accept/", queue.accept, name="accept"),
    path("takes/<uuid:pk>/take-back/", undoing.take_back, name="take-back-release"),
    path("takes/<uuid:pk>/again/", queue.ask_again, name="ask-again"),
]
