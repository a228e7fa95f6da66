from django.urls import path

from oido.marking.views import class_views, desk, handing_in, home, marks, reports, talk

urlpatterns = [
    path("", home.home, name="home"),
    path("marking/", desk.marking, name="marking"),
    path("takes/<uuid:pk>/", reports.take, name="take"),
    path("takes/<uuid:pk>/rows/", reports.rows, name="take-rows"),
    path("takes/<uuid:pk>/notes/<slug:name>/", reports.note, name="take-note"),
    path("takes/<uuid:pk>/report.pdf", reports.paper, name="take-paper"),
    path("takes/<uuid:pk>/notation/", reports.notation, name="take-notation"),
    path("stand/<int:pk>/hand-in/", handing_in.hand_in, name="hand-in"),
    path("stand/<int:pk>/receipt/", handing_in.receipt, name="receipt"),
    path("stand/<int:pk>/compare/", handing_in.compare, name="compare"),
    path("marking/release/", desk.release_accepted, name="release-accepted"),
    path("marking/phrases/", talk.phrases, name="phrases"),
    path("assignments/<int:pk>/", class_views.assignment, name="assignment"),
    path("assignments/<int:pk>/rubric/", class_views.try_rubric, name="try-rubric"),
    path("assignments/<int:pk>/bars/", class_views.exercise_of_bars, name="exercise-of-bars"),
    path("remarkings/<int:pk>/", class_views.remarking_job, name="remarking"),
    path("assignments/<int:pk>/clear/", desk.clear_cases, name="clear-cases"),
    path("assignments/<int:pk>/clear/accept/", desk.accept_clear, name="accept-clear"),
    path("takes/<uuid:pk>/mark/<slug:criterion>/", marks.change_score, name="change-score"),
    path("takes/<uuid:pk>/help/", marks.give_help, name="give-help"),
    path("takes/<uuid:pk>/try/", marks.try_settings, name="try-settings"),
    path("takes/<uuid:pk>/accept/", desk.accept, name="accept"),
    path("takes/<uuid:pk>/again/", desk.ask_again, name="ask-again"),
    path("takes/<uuid:pk>/remarks/", talk.remark, name="remark"),
    path("takes/<uuid:pk>/remarks/<int:number>/remove/", talk.remove_remark, name="remove-remark"),
    path("takes/<uuid:pk>/phrases/<int:number>/", talk.phrase, name="phrase"),
    path("takes/<uuid:pk>/replies/", talk.reply, name="reply"),
]
