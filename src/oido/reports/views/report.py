"""The report of one take: its page of music, its notes one by one, its notation and its sounds."""

import uuid
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.criteria.levels import level_named
from ear.drawing.in_words import result_of
from ear.errors import ValueOutOfRange
from ear.note_place import NotePlace
from oido.assignments.queries import visible_assignments
from oido.assignments.student_terms import shows_analysis
from oido.common.notation import notation_answer
from oido.common.numbers import whole
from oido.common.screen import asked_width, music_width
from oido.exercises.pages import backing_data, playing_data, sounding
from oido.feedback.forms import RemarkForm, ReplyForm
from oido.feedback.remarks import see
from oido.feedback.things_to_do import things_to_do
from oido.marking import remeasuring
from oido.marking.forms import AskAgainForm
from oido.marking.history import history_of, state_of
from oido.marking.models import Remark
from oido.marking.queue import Queue, beside
from oido.marking.trial_settings import copies_trial, kit_trial
from oido.people.conventions import conventions_of, reader_of
from oido.people.requests import Request
from oido.reports.analysed_take import AnalysedTake
from oido.reports.costs import costliest
from oido.reports.exports import BY_FILE, EXPORTS, WITHOUT_A_MARK
from oido.reports.notation import notated
from oido.reports.note_card import note_card
from oido.reports.override_texts import REASONS, list_overrides, override_choices
from oido.reports.report import draw_rows, make_report
from oido.reports.view_options import VERDICT_NAMES, ReportView
from oido.reports.working import proposal_of, working_of
from oido.takes.copies import raw_and_copy
from oido.takes.corrections import summarise_corrections
from oido.takes.doubts import list_doubts
from oido.takes.exports import EXPORTS as TAKE_EXPORTS
from oido.takes.hearing import is_take_hidden
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take
from oido.takes.outputs import take_tags
from oido.takes.queries import visible_takes
from oido.takes.showing import lines_of
from oido.takes.views import control_data


@require_GET
def take(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """The report of one take, for the teacher or for the student whose take it is."""
    shown_take = get_object_or_404(visible_takes(request.user), pk=pk)
    if is_early(request, shown_take):
        messages.info(request, _("What Oido heard is shown once your teacher releases the mark."))
        return (
            redirect("stand", pk=shown_take.assignment_id)
            if may_record(request, shown_take)
            else redirect("home")
        )
    if not judged(shown_take).is_readable:
        may_measure = remeasuring.may_measure(request.user, shown_take)
        context = {"take": shown_take, "assignment": shown_take.assignment, "may_measure": may_measure}
        return render(request, "reports/unreadable.html", context)
    shown = report_context(request, shown_take)
    if shown["is_released"]:
        see(request.user, shown["sheet"], shown["replies"])
    # A change of the look asks for the page of music alone.
    template = "reports/_page.html" if request.htmx else "reports/report.html"
    return render(request, template, shown)


@require_GET
def rows(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Further rows of the page of music."""
    take = _readable(request, pk)
    first = whole(request.GET.get("from", ""))
    if first is None or first < 0:
        raise Http404
    analysed = AnalysedTake(take)
    look = ReportView.of(request.GET, analysed, screen=asked_width(request))
    drawn = draw_rows(analysed, look, remarks=seen_remarks(request, take), first=first)
    return render(request, "reports/_rows.html", {"take": take, "rows": drawn, "look": look})


@require_GET
def note(request: Request, pk: uuid.UUID, name: str) -> HttpResponseBase:
    """The card of one note."""
    take = _readable(request, pk)
    try:
        place = NotePlace.read(name)
    except ValueOutOfRange as problem:
        raise Http404 from problem
    analysed = AnalysedTake(take)
    look = ReportView.of(request.GET, analysed, screen=asked_width(request))
    card = note_card(analysed, place, look.selection, reader_of(request.user))
    if card is None:
        raise Http404
    return render(
        request,
        "reports/_note_card.html",
        {
            "take": take,
            "card": card,
            "shows_mark": _shows_mark(request, take),
            "said": override_choices(analysed, card.place, card.bar),
            "reasons": REASONS.items(),
            "mark_state": state_of(take) if request.user.is_teacher and hasattr(take, "sheet") else "",
        },
    )


@require_GET
def notation(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """The part as drawn notation, each head with how it was played."""
    analysed = AnalysedTake(_readable(request, pk))
    conventions = conventions_of(request.user)

    def draw(bars: range, seed: int) -> str:
        return notated(analysed, conventions, width=music_width(request), bars=bars, seed=seed)

    return notation_answer(request, analysed.part, draw)


@require_GET
def in_words(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """How it went, note by note, as a page of text."""
    analysed = AnalysedTake(_readable(request, pk))
    lines = result_of(
        analysed.part, analysed.overlay, analysed.rows(), VERDICT_NAMES, reader_of(request.user)
    )
    take = analysed.take
    title = _("%(title)s, take %(n)s") % {"title": take.exercise.title, "n": take.number}
    return HttpResponse("\n".join([title, "", *lines, ""]), content_type="text/plain; charset=utf-8")


@require_GET
def export(request: Request, pk: uuid.UUID, file: str) -> HttpResponseBase:
    """One of the files of the table: the report only once the student may see the mark, what to practise as soon as the
    student may read the analysis."""
    take_row, wanted = get_object_or_404(visible_takes(request.user), pk=pk), BY_FILE[file]
    if file in WITHOUT_A_MARK:
        _readable(request, pk)
    elif (
        not hasattr(take_row, "sheet")
        or not _shows_mark(request, take_row)
        or not judged(take_row).is_readable
    ):
        raise Http404
    names = {"name": take_row.student.name, "title": take_row.assignment.exercise.title}
    return wanted.answer(
        request,
        take_row,
        file_name=take_tags(take_row).file_name(wanted.ending),
        names=names,
        back=reverse("take", args=[pk]),
        take=str(pk),
    )


def may_record(request: Request, take: Take) -> bool:
    """Return whether the reader is a student who still has the take's assignment at the Stand."""
    if request.user.is_teacher:
        return False
    return visible_assignments(request.user).filter(pk=take.assignment_id).exists()


def is_early(request: Request, take: Take) -> bool:
    """The student may not see yet what was heard."""
    if _shows_mark(request, take):
        return False
    return is_take_hidden(take) or not shows_analysis(take.assignment, take.exercise)


def _readable(request: Request, pk: uuid.UUID) -> Take:
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    if is_early(request, take) or not judged(take).is_readable:
        raise Http404
    return take


def _shows_mark(request: Request, take: Take) -> bool:
    sheet = getattr(take, "sheet", None)
    return request.user.is_teacher or bool(sheet and sheet.is_released)


def seen_remarks(request: Request, take: Take) -> list[Remark]:
    return list(take.remarks.select_related("author")) if _shows_mark(request, take) else []


def mark_context(request: Request, analysed: AnalysedTake) -> dict[str, Any]:
    """What the mark shows, and what it is made of."""
    take = analysed.take
    sheet = getattr(take, "sheet", None)
    shows_mark = _shows_mark(request, take)
    shown = sheet is not None and shows_mark
    mark, reader = analysed.judgement, reader_of(request.user)
    return {
        "take": take,
        "sheet": sheet,
        "rubric": analysed.rubric,
        "marked_level": level_named(mark.scores.level).name,
        "mark": mark if shown else None,
        "working": working_of(mark, reader) if shown else None,
        "costly": costliest(analysed, reader) if shown else {},
        "is_released": bool(sheet and sheet.is_released),
        "shows_mark": shows_mark,
        "overrides": list_overrides(analysed, reader) if shows_mark else [],
        "history": history_of(sheet) if sheet is not None and shown and request.user.is_teacher else [],
        "mark_state": state_of(take) if shown and request.user.is_teacher else "",
        "proposal": proposal_of(analysed) if shown and request.user.is_teacher else None,
    }


def report_context(request: Request, take: Take) -> dict[str, Any]:
    analysed = AnalysedTake(take)
    look = ReportView.of(request.GET, analysed, screen=asked_width(request))
    remarks = seen_remarks(request, take)
    reader = reader_of(request.user)
    report = make_report(
        analysed, for_teacher=request.user.is_teacher, reader=reader, remarks=remarks, look=look
    )
    context = mark_context(request, analysed)
    own = Take.objects.filter(assignment=take.assignment, student=take.student).values_list(
        "handed_in_at", flat=True
    )
    return {
        **context,
        "takes_count": len(own),
        "may_record": may_record(request, take),
        "siblings": sum(when is not None for when in own) - bool(take.handed_in_at),
        "assignment": take.assignment,
        "exercise": take.exercise,
        "facts": analysed.facts,
        "report": report,
        "rows": report.rows,
        "look": look,
        "remark_form": RemarkForm(part=report.part),
        "reply_form": ReplyForm(),
        "playing": _playing(analysed),
        "replies": list(take.replies.select_related("author")) if context["is_released"] else [],
        "hears_faults": True,
        "doubts": list_doubts(take),
        "exports": EXPORTS,
        "without_a_mark": WITHOUT_A_MARK,
        "take_exports": TAKE_EXPORTS,
        **(
            _desk_context(request, take)
            if request.user.is_teacher
            else {"to_do": things_to_do(request.user, take, reader)}
        ),
        **_hand_in_notes(take, request.user),
    }


def _desk_context(request: Request, take: Take) -> dict[str, Any]:
    """Where the take stands in the queue that the address names."""
    queue = Queue.of(request.GET)
    return {
        "queue": queue,
        "beside": beside(request.user, queue, take),
        "phrases": list(request.user.phrases.all()),
        "ask_form": AskAgainForm(),
        "kit": kit_trial(take),
        "copies": copies_trial(take),
    }


def _playing(analysed: AnalysedTake) -> dict[str, Any]:
    """All that can be heard of a take."""
    take, part = analysed.take, analysed.part
    both = raw_and_copy(take)
    moved = take.fifths is not None and bool(part.notes)
    semitones = part.notes[0].pitch - take.part.read().notes[0].pitch if moved else 0
    return {
        **playing_data(part, analysed.played),
        "passOf": list(take.pass_of_notes()) if take.kept_passes else [],
        "controls": control_data(take),
        "corrected": sounding(both[1], both[1].notes) if both else None,
        "backing": backing_data(take.exercise, part.tempos, semitones=semitones),
    }


def _hand_in_notes(take: Take, user: Any) -> dict[str, Any]:
    """What a report shows of what was handed in with a take."""
    hand_in = HandIn.objects.filter(assignment=take.assignment_id, student=take.student_id).first()
    has_copy = hasattr(take, "corrected")
    return {
        "said": hand_in if take.is_handed_in else None,
        "corrections": summarise_corrections(take, reader_of(user)) if has_copy else None,
        "showing": lines_of(take.showing),
    }
