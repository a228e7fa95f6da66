from django.urls import path, re_path

from oido.stand.views import booklet, choosing, comparing, copies, elsewhere, handing_in, sending, stand
from oido.takes.urls import TAKE

urlpatterns = [
    path("stand/booklets/<int:pk>/", booklet.booklet, name="my-booklet"),
    path("stand/latency/", sending.latency, name="latency"),
    path("stand/<int:pk>/", stand.stand, name="stand"),
    path("stand/<int:pk>/notation/", stand.stand_notation, name="stand-notation"),
    path("stand/<int:pk>/heard/", stand.heard, name="heard"),
    path("stand/<int:pk>/tray/", stand.tray, name="tray"),
    path("stand/<int:pk>/takes/", sending.upload, name="upload-take"),
    path("stand/<int:pk>/loops/", sending.loop, name="loop"),
    path("stand/<int:pk>/robot/", stand.robot, name="robot"),
    path("stand/<int:pk>/elsewhere/", elsewhere.choose_file, name="elsewhere"),
    path("stand/<int:pk>/elsewhere/<int:upload>/", elsewhere.make_take, name="elsewhere-file"),
    path("takes/<uuid:pk>/name/", choosing.name, name="name-take"),
    path("takes/<uuid:pk>/star/", choosing.star, name="star-take"),
    path("takes/<uuid:pk>/throw-away/", choosing.throw_away, name="throw-away"),
    path("takes/<uuid:pk>/bring-back/", choosing.bring_back, name="bring-back"),
    path("takes/<uuid:pk>/passes/", sending.upload_pass, name="upload-pass"),
    re_path(
        rf"^{TAKE}/passes/(?P<number>\d+)/(?P<way>back|again)/$",
        sending.turn_pass,
        name="turn-pass",
    ),
    path("takes/<uuid:pk>/copy/", copies.copy, name="copy"),
    path("takes/<uuid:pk>/copy/playing/", copies.playing, name="copy-playing"),
    path("takes/<uuid:pk>/copy/drop/", copies.drop, name="drop-copy"),
    re_path(rf"^{TAKE}/copy/(?P<way>undo|redo)/$", copies.step, name="copy-step"),
    path("takes/<uuid:pk>/copy/do/<slug:slug>/", copies.use_tool, name="copy-tool"),
    path("stand/<int:pk>/hand-in/", handing_in.hand_in, name="hand-in"),
    path("stand/<int:pk>/receipt/", handing_in.receipt, name="receipt"),
    path("stand/<int:pk>/compare/", comparing.compare, name="compare"),
]
