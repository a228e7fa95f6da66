"""What teachers do with the figures of a take: change scores, mark by hand, try other settings."""

import uuid
from dataclasses import replace
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.views.decorators.http import require_http_methods

from ear.errors import ValueOutOfRange
from ear.judging.judgement import Criterion
from ear.judging.settings import NoteOverride, Reason
from ear.matching.outcome import Outcome
from ear.note_place import NotePlace
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import NotAllowed, for_teachers
from oido.jobs.views import asked_for
from oido.marking import remeasuring, services
from oido.marking.at_desk import changed_in_words, reports_changes, shown_state
from oido.marking.forms import ScoreForm, TryForm
from oido.marking.history import ChangedMeanwhile, state_of
from oido.marking.trial_settings import copies_trial, kit_trial, make_try_form, tried
from oido.marking.undoing import offer_undo
from oido.people.requests import Request
from oido.reports.analysed_take import AnalysedTake
from oido.reports.views.report import mark_context
from oido.rubrics.labels import criterion_label
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.queries import visible_takes
from oido.takes.sizes import is_long


def fresh(request: Request, take: Take) -> Take:
    """The take with all that is stored of it now."""
    return get_object_or_404(visible_takes(request.user), pk=take.pk)


def _marked(request: Request, pk: uuid.UUID) -> Take:
    """A take whose mark can be worked on: one that cannot be read is measured again first."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    if not judged(take).is_readable:
        raise Http404
    return take


def answer_mark(request: Request, take: Take, *, status: int = 200, **more: Any) -> HttpResponseBase:
    """The mark alone for htmx; the whole report for those without."""
    if not request.htmx and status == 200:
        return redirect("take", pk=take.pk)
    context = {**mark_context(request, AnalysedTake(fresh(request, take))), **more}
    return render(request, "reports/_mark.html", context, status=status)


@require_http_methods(["GET", "POST"])
@for_teachers
@reports_changes
def change_score(request: Request, pk: uuid.UUID, criterion: str) -> HttpResponseBase:
    """Change one criterion, or (`back`) give the machine's figure back."""
    take = _marked(request, pk)
    row = _row(take, criterion)
    if request.method == "POST" and "back" in request.POST:
        services.give_score(request.user, take, criterion, None, shown=shown_state(request))
        return answer_mark(request, take)
    form, changed = (
        ScoreForm(
            request.POST or None,
            criterion=row.teacher_criterion,
            teacher_score=row.teacher_score,
            score=row.score,
        ),
        "",
    )
    if request.method == "POST" and form.is_valid():
        try:
            services.give_score(
                request.user, take, criterion, form.teacher_score(), shown=shown_state(request)
            )
        except ChangedMeanwhile as problem:
            # What was typed stays, below what changed.
            changed = changed_in_words(problem)
        else:
            return answer_mark(request, take)
    return answer_mark(
        request, take, status=422 if request.method == "POST" else 200, editing=row, score_form=form, changed=changed,
        editing_label=criterion_label(criterion, judged(take).rubric),
    )  # fmt: skip


def _row(take: Take, criterion: str) -> Criterion:
    row = judged(take).judgement.criterion(criterion)
    if row is None:
        raise Http404
    return row


@only_post
@for_teachers
@reports_changes
def give_help(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    take = _marked(request, pk)
    step = whole(request.POST.get("help", ""))
    if step is None or not 0 <= step < len(judged(take).rubric.help):
        step = None
    services.give_help(request.user, take, step, shown=shown_state(request))
    return answer_mark(request, take)


@require_http_methods(["GET", "POST"])
@for_teachers
def try_settings(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """The mark by other settings, to be looked at; “keep” in the data keeps them for this take."""
    take = _marked(request, pk)
    form: TryForm = make_try_form(take, request.POST or None)
    context = {"take": take, "mark_state": shown_state(request) or state_of(take)}
    if request.method == "GET" or not form.is_valid():
        status = 422 if request.method == "POST" else 200
        return render(request, "reports/_try.html", {**context, "try_form": form}, status=status)
    if "keep" in request.POST:
        try:
            services.set_for_take(request.user, take, form.settings, shown=shown_state(request))
        except ChangedMeanwhile as problem:
            override = {
                "try_form": form,
                "changed": changed_in_words(problem),
                "mark_state": state_of(fresh(request, take)),
            }
            return render(request, "reports/_try.html", {**context, **override}, status=422)
        except services.LongTake as long:
            asked = _set_in_background(request, take, long)
            if request.htmx:
                asked = HttpResponse(headers={"HX-Redirect": asked["Location"]})
            return asked
        response: HttpResponse = redirect("take", pk=pk)
        if request.htmx:
            # Drawing, ear notes and mark are others now: the whole page is asked for again.
            response = render(request, "reports/_try.html", {**context, "try_form": form})
            response["HX-Refresh"] = "true"
        return response
    if form.settings.heard != take.set_for_it.heard and is_long(take):
        return render(request, "reports/_try.html", {**context, "try_form": form, "is_long": True})
    return render(
        request, "reports/_try.html", {**context, "try_form": form, "tried": tried(take, form.settings)}
    )


def _set_in_background(request: Request, take: Take, long: services.LongTake) -> HttpResponseBase:
    """The take has many notes: it is measured by its new settings in a job."""
    title = _("%(title)s, take %(n)s") % {"title": take.exercise.title, "n": take.number}
    return asked_for(
        request, "marking.set_for_take", title=title, back=reverse("take", args=[take.pk]), take=str(take.pk),
        teacher=request.user.pk, settings=long.settings.to_json(), change=str(long.kind), shown=long.shown,
    )  # fmt: skip


@only_post
@for_teachers
@reports_changes
def agree(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Take over the mark that a newer version of the measuring makes, or leave the one that was released."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    act = remeasuring.agree if "agree" in request.POST else remeasuring.decline
    act(request.user, take, shown=shown_state(request))
    return redirect("take", pk=pk)


@only_post
def measure_again(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Measure a take whose stored result cannot be read."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    remeasuring.measure_now(request.user, take)
    return redirect("take", pk=pk)


@only_post
@for_teachers
@reports_changes
def read_kit(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Read the pads of the student's set-up as they seem to be meant."""
    take = _marked(request, pk)
    trial = kit_trial(take)
    if trial is None:
        messages.info(request, _("The pads are already read this way."))
    else:
        meant = {one.number: one.lane.pitches[0] for one in trial.pad_choices}
        services.read_pads_as(request.user, take, meant, shown=shown_state(request))
        messages.success(request, _("From now on the pads are read this way in all takes on this kit."))
    return redirect("take", pk=pk)


@only_post
@for_teachers
@reports_changes
def leave_out_copies(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Leave notes out that the set-up has sent a second time."""
    take = _marked(request, pk)
    trial = copies_trial(take)
    if trial is None:
        messages.info(request, _("This take has no duplicates to ignore."))
        return redirect("take", pk=pk)
    settings = replace(take.set_for_it, without_copies=trial.semitones)
    try:
        services.set_for_take(request.user, take, settings, shown=shown_state(request))
    except services.LongTake as long:
        return _set_in_background(request, take, long)
    messages.success(request, _("The duplicates are now ignored."))
    return redirect("take", pk=pk)


AGAIN, AS_BEFORE = "again", "as-before"


@only_post
@for_teachers
@reports_changes
def decide_on_place(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """How a note or a bar counts; the whole report is another one then."""
    take = _marked(request, pk)
    override, reason = request.POST.get("said", ""), request.POST.get("reason", "")
    bar = whole(request.POST.get("bar", ""))
    if override in (AGAIN, AS_BEFORE):
        return _measure_bar(request, take, -1 if bar is None else bar, again=override == AGAIN)
    try:
        sheet = services.override_place(
            request.user, take, NotePlace.read(request.POST.get("place", "")),
            NoteOverride(override) if override in list(NoteOverride) else None,
            reason=Reason(reason) if reason in list(Reason) else None, for_all="for_all" in request.POST,
            shown=shown_state(request),
        )  # fmt: skip
    except (services.NoSuchPlace, ValueOutOfRange):
        messages.error(request, _("There is no such note or bar in this take."))
    except ChangedMeanwhile:
        raise
    except NotAllowed:
        messages.error(request, _("Only the exercise’s owner can apply this to all takes."))
    else:
        offer_undo(request, _("The mark is %(n)s now.") % {"n": f"{sheet.points:g}"}, [sheet])
    return redirect("take", pk=pk)


def _measure_bar(request: Request, take: Take, bar: int, *, again: bool) -> HttpResponseBase:
    before = _right_in_bar(take, bar)
    try:
        sheet = services.measure_bar(request.user, take, bar, again=again, shown=shown_state(request))
    except services.NoSuchPlace:
        messages.error(request, _("There is no such note or bar in this take."))
        return redirect("take", pk=take.pk)
    except services.LongTake as long:
        return _set_in_background(request, take, long)
    after = _right_in_bar(take, bar)
    if before == after:
        template = _("No change in bar %(bar)s: still %(right)s of %(of)s notes right.")
    else:
        template = _("Bar %(bar)s: %(right)s of %(of)s notes are right; before, it was %(before)s.")
    message = template % {"bar": bar, "right": after[0], "of": after[1], "before": before[0]}
    offer_undo(request, message, [sheet])
    return redirect("take", pk=take.pk)


@only_post
@for_teachers
@reports_changes
def place_slip(request: Request, pk: uuid.UUID) -> HttpResponseBase:
    """Tell a slip elsewhere among bars alike, or where it was heard; the whole report is another one then."""
    take = _marked(request, pk)
    try:
        sheet = services.place_slip(
            request.user,
            take,
            whole(request.POST.get("first", "")) or 0,
            whole(request.POST.get("chosen", "")),
            shown=shown_state(request),
        )
    except services.NoSuchPlace:
        messages.error(request, _("This slip has been moved in the meantime. Reload the report."))
    except services.LongTake as long:
        return _set_in_background(request, take, long)
    else:
        offer_undo(
            request,
            _("Slip moved. The mark is now %(n)s.") % {"n": f"{sheet.points:g}"},
            [sheet],
        )
    return redirect("take", pk=pk)


def _right_in_bar(take: Take, bar: int) -> tuple[int, int]:
    """Right notes of a bar, and all that are written in it."""
    rows = judged(take).facts.rows
    inside = [
        outcome is Outcome.MATCHED
        for target, outcome in zip(rows.target, rows.outcome, strict=True)
        if target is not None and rows.bar[target] == bar
    ]
    return sum(inside), len(inside)
