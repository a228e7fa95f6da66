from django.urls import path, re_path

from oido.jobs.exports import pattern
from oido.reports.exports import EXPORTS
from oido.reports.views import comparing, marks, remarks, report
from oido.takes.urls import TAKE

urlpatterns = [
    path("takes/<uuid:pk>/", report.take, name="take"),
    path("takes/<uuid:pk>/rows/", report.rows, name="take-rows"),
    path("takes/<uuid:pk>/notes/<slug:name>/", report.note, name="take-note"),
    path("takes/<uuid:pk>/compare/", comparing.compare, name="compare-takes"),
    path("takes/<uuid:pk>/beside/", comparing.beside, name="beside"),
    re_path(rf"^{TAKE}/(?P<file>{pattern(EXPORTS)})$", report.export, name="report-export"),
    path("takes/<uuid:pk>/words.txt", report.in_words, name="take-words"),
    path("takes/<uuid:pk>/notation/", report.notation, name="take-notation"),
    path("takes/<uuid:pk>/mark/<slug:criterion>/", marks.change_score, name="change-score"),
    path("takes/<uuid:pk>/mark-again/", marks.agree, name="agree"),
    path("takes/<uuid:pk>/measure/", marks.measure_again, name="measure-again"),
    path("takes/<uuid:pk>/help/", marks.give_help, name="give-help"),
    path("takes/<uuid:pk>/say/", marks.decide_on_place, name="say"),
    path("takes/<uuid:pk>/slips/", marks.place_slip, name="place-slip"),
    path("takes/<uuid:pk>/kit/", marks.read_kit, name="read-kit"),
    path("takes/<uuid:pk>/copies/", marks.leave_out_copies, name="leave-out-copies"),
    path("takes/<uuid:pk>/try/", marks.try_settings, name="try-settings"),
    path("takes/<uuid:pk>/remarks/", remarks.remark, name="remark"),
    path("takes/<uuid:pk>/remarks/<int:number>/remove/", remarks.remove_remark, name="remove-remark"),
    path("takes/<uuid:pk>/phrases/<int:number>/", remarks.phrase, name="phrase"),
    path("takes/<uuid:pk>/replies/", remarks.reply, name="reply"),
]
