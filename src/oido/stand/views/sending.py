"""What the Stand sends while somebody plays: takes, passes, loops, taps."""

import uuid
from typing import Any

from django.http import HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.template.loader import render_to_string
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy

from ear.errors import EarError
from ear.findings.finding import Finding
from ear.findings.kind import FOR_STUDENT, PlayedOn
from ear.findings.rendering import render_finding
from ear.notes import Kind
from ear.practice.ladder import Rung
from ear.recording.latency import calibrate
from oido.assignments.queries import recordable_assignments
from oido.assignments.student_terms import StudentTerms, get_student_terms
from oido.common import problems
from oido.common.bodies import BadBody, parsed
from oido.common.methods import only_post
from oido.common.page_data import LatencyAnswer, LoopAnswer, PaceAnswer
from oido.common.permissions import NotAllowed, for_students
from oido.people.conventions import reader_of
from oido.people.quotas import NoRoom
from oido.people.requests import Request
from oido.stand.bodies import (
    SETTINGS_BYTES,
    LoopBody,
    PaceBody,
    PassBody,
    PractisedBody,
    SettingsBody,
    TakeBody,
    TapsBody,
)
from oido.stand.pace_texts import describe_pace
from oido.stand.views.stand import ladder_context, tray_context
from oido.takes.at_stand import practised, save_settings
from oido.takes.bar_states import bar_states
from oido.takes.hearing import is_hidden
from oido.takes.models import TakePass
from oido.takes.practice import LongLoop, climb, is_in_tempo, judge_loop, judge_pace, ladder_of
from oido.takes.queries import visible_takes
from oido.takes.services import (
    NoMorePasses,
    NoMoreTakes,
    NoSuchNote,
    delete_note,
    store_pass,
    store_take,
    undo_pass,
)


def refused(**errors: list[Any]) -> JsonResponse:
    return JsonResponse({"errors": errors}, status=422)


OF_A_LOOP = {
    "empty": gettext_lazy("Nothing was heard in this loop."),
    "foreign": gettext_lazy("This does not sound like these bars. Listen to them, then play them slowly."),
}
"""What is said of a take tells the student to record again: of a loop something else is said."""


def _describe_loop(request: Request, fault: Finding | None, played_on: PlayedOn) -> str:
    if fault is None:
        return ""
    return (
        str(OF_A_LOOP[fault.code])
        if fault.code in OF_A_LOOP
        else render_finding(fault, FOR_STUDENT, reader_of(request.user), played_on=played_on)
    )


@only_post
@for_students
def upload(request: Request, pk: int) -> HttpResponseBase:
    """Store one take, sent as JSON, also for an assignment that was withdrawn meanwhile."""
    assignment = get_object_or_404(recordable_assignments(request.user), pk=pk)
    try:
        store_take(request.user, assignment, parsed(request.body, TakeBody).new_take())
    except BadBody as problem:
        return problem.answer()
    except NoMoreTakes:
        return refused(id=[_("You have already recorded all the takes that this exercise allows.")])
    except NoRoom as problem:
        # Not the take's fault: the browser keeps it and asks again.
        return JsonResponse({"errors": {"id": [problem.sentence]}}, status=507)
    except EarError as problem:
        # A tempo or key that the part cannot be played at or in.
        return refused(tempo_bpm=[problems.error_message(problem)])
    return _stored(request, assignment.pk)


@only_post
@for_students
def upload_pass(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Store one further pass into a take."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    try:
        store_pass(request.user, take, parsed(request.body, PassBody).new_pass())
    except BadBody as problem:
        return problem.answer()
    except NoMorePasses:
        return refused(id=[_("You have already recorded all the passes that this exercise allows.")])
    except NotAllowed:
        return refused(
            id=[_("This take is handed in, deleted or corrected. Nothing more can be recorded into it.")]
        )
    return _stored(request, take.assignment_id)


def _stored(request: Request, assignment: int) -> HttpResponse:
    """Acknowledge at once what was stored. The page asks for the list of takes, which costs more, once it is measured."""
    return render(request, "stand/_listening.html", {"assignment": assignment}, status=201)


@only_post
@for_students
def turn_pass(request: Request, pk: uuid.UUID, number: int, way: str) -> HttpResponseBase:
    """Take a pass back, or restore this pass."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    laid = get_object_or_404(TakePass.objects.select_related("take"), take=take, number=number)
    try:
        undo_pass(request.user, laid, is_back=way == "back")
    except NoMorePasses:
        return refused(id=[_("You have already recorded all the passes that this exercise allows.")])
    return _tray(request, get_student_terms(take.assignment, request.user))


@only_post
@for_students
def take_out_hit(request: Request, pk: uuid.UUID, number: int) -> HttpResponseBase:
    """Take one hit out of a take that is laid pass by pass."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    if take.exercise.recording_rules.passes < 2:
        return refused(id=[_("This exercise is played in one pass.")])
    try:
        delete_note(request.user, take, number)
    except NoSuchNote:
        return refused(id=[_("That hit is no longer in this take. Reload the page.")])
    except NotAllowed:
        return refused(
            id=[_("This take is handed in, deleted or corrected. Nothing more can be recorded into it.")]
        )
    return _tray(request, get_student_terms(take.assignment, request.user))


def _tray(request: Request, student_terms: StudentTerms) -> HttpResponse:
    return render(request, "stand/_takes.html", tray_context(request, student_terms))


@only_post
def loop(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """Judge one loop that was played; a rung's counts for its ladder."""
    if is_hidden(request.user, student_terms):
        # What a loop is told gives away what is to be found by ear.
        return refused(first_bar=[_("This exercise cannot be practised in loops.")])
    try:
        sent = parsed(request.body, LoopBody)
        rung = _practised_rung(request, student_terms, sent)
        judged = judge_loop(student_terms, rung, sent.played())
    except BadBody as problem:
        return problem.answer()
    except EarError as problem:
        return refused(first_bar=[problems.error_message(problem)])
    except LongLoop:
        return refused(first_bar=[_("That is too many notes for one loop. Choose fewer bars.")])
    if not student_terms.is_trial:
        loop_s = judged.part.tempos.second_at(judged.part.bars[-1].end_tick)
        practised(
            request.user, student_terms.assignment, bars=(rung.first_bar, rung.last_bar), seconds=loop_s
        )
    number = sent.rung
    played_on = sent.source.row.played_on[Kind(student_terms.exercise.kind)]
    answer: LoopAnswer = {
        "points": round(judged.points), "isClean": judged.is_clean, "earNote": _describe_loop(request, judged.fault, played_on), "needed": rung.needed,
        "chart": render_to_string("stand/_loop_chart.html", {
            "bars": bar_states(judged.part, judged.facts, judged.judgement), "shift": rung.first_bar - judged.part.first_bar, "points": round(judged.points),
        }),
    }  # fmt: skip
    if number and not rung.own_pace:
        in_tempo = is_in_tempo(student_terms, rung, sent.bpm)
        answer["inTempo"] = in_tempo
        answer["row"] = climb(
            request.user,
            student_terms,
            number,
            points=judged.points,
            is_clean=judged.is_clean,
            in_tempo=in_tempo,
        )
        answer["neededLoops"] = rung.needed_loops
        context = ladder_context(request, student_terms)
        answer["isPassed"] = context["climbs"][number - 1].is_passed
        answer["ladder"] = render_to_string("stand/_ladder.html", context, request)
    return JsonResponse(answer)


def _practised_rung(request: Request, student_terms: StudentTerms, sent: PractisedBody) -> Rung:
    """The rung of the ladder that was practised, or the chosen bars as one. Raise BadBody, ValueOutOfRange."""
    if not sent.rung:
        return sent.chosen()
    climbs = ladder_of(request.user, student_terms)
    if sent.rung > len(climbs):
        raise BadBody({"rung": [_("This ladder no longer has that rung. Reload the page.")]})
    return climbs[sent.rung - 1].rung


@only_post
def own_pace(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """Follow bars that were played at one's own pace; a rung's count for its ladder if it asks for that."""
    if is_hidden(request.user, student_terms) or student_terms.exercise.part_in_force.free is not None:
        return refused(first_bar=[_("This exercise cannot be practised at your own pace.")])
    try:
        sent = parsed(request.body, PaceBody)
        rung = _practised_rung(request, student_terms, sent)
        result = judge_pace(student_terms, rung, sent.played_events(), fifths=sent.fifths)
    except BadBody as problem:
        return problem.answer()
    except EarError as problem:
        return refused(first_bar=[problems.error_message(problem)])
    except LongLoop:
        return refused(first_bar=[_("That is too many notes to follow at once. Choose fewer bars.")])
    if not student_terms.is_trial:
        bars = (rung.first_bar, rung.last_bar)
        practised(request.user, student_terms.assignment, bars=bars, seconds=result.duration_s)
    answer: PaceAnswer = {
        "isComplete": result.is_complete,
        "isClean": result.is_clean,
        "words": describe_pace(result),
        "loop": result.suggested_bars,
    }
    if sent.rung and rung.own_pace and result.is_complete:
        clean_steps = sum(not wrong for wrong in result.wrong)
        climb(
            request.user,
            student_terms,
            sent.rung,
            points=100 * clean_steps / len(result.steps),
            is_clean=result.is_clean,
        )
        context = ladder_context(request, student_terms)
        answer["isPassed"] = context["climbs"][sent.rung - 1].is_passed
        answer["ladder"] = render_to_string("stand/_ladder.html", context, request)
    return JsonResponse(answer)


@only_post
@for_students
def settings(request: Request) -> HttpResponseBase:
    """Keep what a student has set at the Stand."""
    if len(request.body) > SETTINGS_BYTES:
        return refused(kept=[_("These settings could not be saved. Reload the page.")])
    try:
        save_settings(request.user, parsed(request.body, SettingsBody).kept)
    except BadBody as problem:
        return problem.answer()
    return HttpResponse(status=204)


@only_post
def latency(request: Request) -> HttpResponseBase:
    """A set-up's constant latency, from taps along with a click."""
    try:
        sent = parsed(request.body, TapsBody)
        measured = calibrate(sent.taps, sent.beats)
    except BadBody as problem:
        return problem.answer()
    except EarError as problem:
        return refused(taps=[problems.error_message(problem)])
    answer: LatencyAnswer = {
        "offsetMs": round(measured.offset_ms, 1), "spreadMs": round(measured.spread_ms, 1), "taps": measured.taps,
        "leftOut": measured.left_out, "isSteady": measured.is_steady,
    }  # fmt: skip
    return JsonResponse(answer)
