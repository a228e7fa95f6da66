"""A take that was recorded elsewhere: send its file, say what of it is the take."""

import uuid
from decimal import Decimal
from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.http import require_http_methods

from ear.errors import EarError
from ear.formats.importing import MIDI_START
from ear.formats.limits import FILE_BYTES
from ear.notes import Part
from ear.recording.from_file import MAX_COUNT_IN, RECORDINGS, RecordedFile, Track, recording_from_plain
from oido.assignments.student_terms import StudentTerms
from oido.common import problems
from oido.common.fields import offer
from oido.common.forms import FormData
from oido.common.permissions import for_students
from oido.common.readers import number
from oido.common.sources import Source
from oido.exercises.models import ImportedFile
from oido.exercises.services import drop_upload, open_upload, store_upload
from oido.exercises.views.opening import being_opened
from oido.people.quotas import NoRoom
from oido.people.requests import Request
from oido.stand.lookup import student_terms_or_404
from oido.takes.services import NewTake, NoMoreTakes, receive_take

FROM_UPLOADS = uuid.UUID("6f1d0c52-8a5e-4b7e-9c3a-3d1c8a4c7e15")
"""The namespace of takes from files: sent twice at once, one file is one take."""
TEMPO_FINE = 0.5
"""Quarter notes a minute by which a file's tempo may differ and be called the exercise's."""


class FileForm(forms.Form):
    file = forms.FileField(
        label=gettext_lazy("MIDI file"), help_text=gettext_lazy("A Standard MIDI File, .mid, up to 4 MB.")
    )

    def clean_file(self) -> Any:
        file = self.cleaned_data["file"]
        if file.size > FILE_BYTES:
            raise forms.ValidationError(_("This file is too large for a take (over 4 MB)."))
        self.content = file.read()
        if not self.content.startswith(MIDI_START):
            raise forms.ValidationError(_("This is no MIDI file: a Standard MIDI File ends in .mid."))
        return file


class ElsewhereForm(forms.Form):
    """Which tracks, how long the count-in, which tempo the player had in the ear."""

    tracks = forms.MultipleChoiceField(
        label=gettext_lazy("What is the take"), widget=forms.CheckboxSelectMultiple,
        error_messages={"required": gettext_lazy("Choose one track at least.")},
    )  # fmt: skip
    count_in = forms.TypedChoiceField(label=gettext_lazy("Count-in before bar 1"), coerce=int)
    tempo = forms.ChoiceField(label=gettext_lazy("Recorded to"), widget=forms.RadioSelect)

    def __init__(
        self, data: FormData = None, *, recorded: RecordedFile, part: Part, bpm: float, **more: Any
    ) -> None:
        self.tracks_by_key = {track.key: track for track in recorded.tracks}
        fitting = [t.key for t in recorded.tracks if t.kind is part.kind] or list(self.tracks_by_key)
        count_in_bars = recorded.count_in(part, voices=[self.tracks_by_key[key].voice for key in fitting])
        has_file_tempo = recorded.bpm is not None and abs(recorded.bpm - bpm) > TEMPO_FINE
        super().__init__(
            data,
            initial={
                "tracks": fitting,
                "count_in": count_in_bars,
                "tempo": "file" if has_file_tempo else "exercise",
            },
            **more,
        )
        self.count_in_found = count_in_bars
        self.has_tempo_choice = has_file_tempo
        offer(self, "tracks", [(key, track.name) for key, track in self.tracks_by_key.items()])
        offer(
            self,
            "count_in",
            [
                (
                    bars,
                    (_("%(n)s bars, found by the notes") if bars == count_in_bars else _("%(n)s bars"))
                    % {"n": bars},
                )
                for bars in range(MAX_COUNT_IN + 1)
            ],
        )
        offer(self, "tempo", [
            ("exercise", _("the exercise’s click, %(bpm)s") % {"bpm": number(bpm)}),
            *([("file", _("the file’s own click, %(bpm)s") % {"bpm": f"{recorded.bpm:.4g}"})] if has_file_tempo else []),
        ])  # fmt: skip

    @property
    def choices(self) -> list[tuple[Any, Track]]:
        return list(zip(self["tracks"], self.tracks_by_key.values(), strict=True))


@require_http_methods(["GET", "POST"])
@for_students
def choose_file(request: Request, pk: int) -> HttpResponseBase:
    student_terms = student_terms_or_404(request, pk)
    form = FileForm(request.POST or None, request.FILES or None)
    if request.method == "POST" and form.is_valid():
        stored = store_upload(request.user, form.cleaned_data["file"].name, form.content)
        address = reverse("elsewhere-file", kwargs={"pk": pk, "upload": stored.pk})
        open_upload(request.user, stored, back=address, reader=RECORDINGS)
        return redirect(address)
    context = {"assignment": student_terms.assignment, "exercise": student_terms.exercise, "form": form}
    status = 422 if request.method == "POST" else 200
    return render(request, "stand/elsewhere.html", context, status=status)


@require_http_methods(["GET", "POST"])
@for_students
def make_take(request: Request, pk: int, upload: int) -> HttpResponseBase:
    """What was found in the file, to be changed; then it is a take like any other."""
    student_terms = student_terms_or_404(request, pk)
    stored = get_object_or_404(ImportedFile, pk=upload, owner=request.user)
    send_again = reverse("elsewhere", kwargs={"pk": pk})
    waiting = being_opened(request, stored, send_again=send_again, reader=RECORDINGS)
    if waiting is not None:
        return waiting
    try:
        recorded = recording_from_plain(stored.read_contents())
    except EarError as problem:
        messages.error(request, problems.error_message(problem))
        return redirect(send_again)
    if not recorded.tracks:
        messages.error(request, _("There is no note in this file."))
        return redirect(send_again)
    bpm = float(student_terms.exercise.tempo_bpm)
    form = ElsewhereForm(
        request.POST or None, recorded=recorded, part=student_terms.exercise.part_in_force.read(), bpm=bpm
    )
    if request.method == "POST" and form.is_valid():
        refusal = _receive(request, student_terms, stored, recorded, form)
        if not refusal:
            return redirect("stand", pk=pk)
        form.add_error(None, refusal)
    slowest, fastest = student_terms.rules.tempo_range(bpm)
    context = {
        "assignment": student_terms.assignment, "exercise": student_terms.exercise, "form": form, "stored": stored,
        "recorded": recorded, "bpm": bpm, "slowest": slowest, "fastest": fastest,
        "is_other_tempo": form.has_tempo_choice,
    }  # fmt: skip
    status = 422 if request.method == "POST" else 200
    return render(request, "stand/elsewhere_file.html", context, status=status)


def _receive(
    request: Request,
    student_terms: StudentTerms,
    stored: ImportedFile,
    recorded: RecordedFile,
    form: ElsewhereForm,
) -> str:
    """Import as a take; why not, in words, or nothing."""
    c = form.cleaned_data
    part = student_terms.exercise.part_in_force
    voices = [form.tracks_by_key[key].voice for key in c["tracks"]]
    own_tempo = recorded.bpm if c["tempo"] == "file" else None
    try:
        events = recorded.events(part.read(), count_in_bars=c["count_in"], voices=voices)
        take = receive_take(
            request.user,
            student_terms.assignment,
            NewTake(
                id=uuid.uuid5(FROM_UPLOADS, f"{stored.pk} {stored.created_at.isoformat()}"), part_id=part.pk, events=events, source=Source.FILE, device=stored.name[:120],
                latency_ms=0.0, recorded_at=timezone.now(), file=(stored.name, bytes(stored.data)),
                tempo_bpm=None if own_tempo is None else Decimal(f"{own_tempo:.2f}"),
            ),
        )  # fmt: skip
    except NoMoreTakes:
        return _("You have already recorded all the takes that this exercise allows.")
    except NoRoom as problem:
        return problem.sentence
    except EarError as problem:
        return problems.error_message(problem)
    drop_upload(stored)
    messages.success(
        request, _("%(name)s was imported as take %(n)s.") % {"name": stored.name, "n": take.number}
    )
    return ""
