import re

from django.urls import path, re_path

from oido.exercises.exports import EXPORTS
from oido.jobs.exports import pattern
from oido.stand.lookup import WAYS, to_students, to_teachers
from oido.stand.views import (
    booklet,
    choosing,
    comparing,
    copies,
    elsewhere,
    files,
    handing_in,
    sending,
    stand,
    words,
)
from oido.takes.urls import TAKE

SHOWN = (
    ("", stand.stand, "stand"),
    ("notation/", stand.stand_notation, "stand-notation"),
    ("music/", stand.music, "stand-music"),
    ("words/", words.words, "stand-words"),
    ("words.txt", words.text, "stand-text"),
    ("heard/", stand.heard, "heard"),
    ("loops/", sending.loop, "loop"),
    ("own-pace/", sending.own_pace, "own-pace"),
    ("robot/", stand.robot, "robot"),
)
"""Where, what, and its name: for students of what they are given, and for teachers who look at it as students do."""
ways = "|".join(WAYS)
pages = [path(f"stand/<int:pk>/{where}", to_students(view), name=name) for where, view, name in SHOWN]
pages += [
    re_path(
        rf"^stand/(?P<way>{ways})/(?P<pk>\d+)/{re.escape(where)}$", to_teachers(view), name=f"trial-{name}"
    )
    for where, view, name in SHOWN
]

urlpatterns = [
    path("stand/booklets/<int:pk>/", booklet.booklet, name="my-booklet"),
    re_path(
        r"^stand/booklets/(?P<pk>\d{1,18})/heard\.(?P<ending>mid|wav|ogg|mp3)$",
        booklet.heard_as_one,
        name="hear-my-booklet",
    ),
    path("stand/settings/", sending.settings, name="stand-settings"),
    path("stand/latency/", sending.latency, name="latency"),
    *pages,
    re_path(
        rf"^stand/(?P<pk>\d{{1,18}})/(?P<file>{pattern(export for line in EXPORTS for export in line)})$",
        files.part_file,
        name="stand-file",
    ),
    path("stand/<int:pk>/tray/", stand.tray, name="tray"),
    path("stand/<int:pk>/takes/", sending.upload, name="upload-take"),
    path("stand/<int:pk>/elsewhere/", elsewhere.choose_file, name="elsewhere"),
    path("stand/<int:pk>/elsewhere/<int:upload>/", elsewhere.make_take, name="elsewhere-file"),
    path("takes/<uuid:pk>/on-music/", stand.on_music, name="take-on-music"),
    path("takes/<uuid:pk>/name/", choosing.name, name="name-take"),
    path("takes/<uuid:pk>/star/", choosing.star, name="star-take"),
    path("takes/<uuid:pk>/throw-away/", choosing.delete, name="throw-away"),
    path("takes/<uuid:pk>/bring-back/", choosing.restore, name="bring-back"),
    path("takes/<uuid:pk>/passes/", sending.upload_pass, name="upload-pass"),
    re_path(
        rf"^{TAKE}/passes/(?P<number>\d+)/(?P<way>back|again)/$",
        sending.turn_pass,
        name="turn-pass",
    ),
    path("takes/<uuid:pk>/hits/<int:number>/out/", sending.take_out_hit, name="take-out-hit"),
    path("takes/<uuid:pk>/copy/", copies.copy, name="copy"),
    path("takes/<uuid:pk>/copy/rows/", copies.later_rows, name="copy-rows"),
    path("takes/<uuid:pk>/copy/playing/", copies.playing, name="copy-playing"),
    path("takes/<uuid:pk>/copy/drop/", copies.drop, name="drop-copy"),
    re_path(rf"^{TAKE}/copy/(?P<way>undo|redo)/$", copies.step, name="copy-step"),
    path("takes/<uuid:pk>/copy/do/<slug:slug>/", copies.use_tool, name="copy-tool"),
    path("stand/<int:pk>/hand-in/", handing_in.hand_in, name="hand-in"),
    path("stand/<int:pk>/receipt/", handing_in.receipt, name="receipt"),
    path("stand/<int:pk>/compare/", comparing.compare, name="compare"),
]
