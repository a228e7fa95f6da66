import uuid

from django.conf import settings
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_POST

from ear.formats.events import events_from_take
from ear.formats.smf_writing import write_take
from ear.labels import LabelKind
from ear.labels.chord_cards import chord_cards
from ear.notation.engraving import notation_svg
from ear.players.robot import play
from oido.assignments.models import Assignment
from oido.assignments.queries import visible_assignments
from oido.common.permissions import for_students
from oido.exercises.pages import PAGE_WIDTH, exercise_page, label_switches, playing_data, recording_data
from oido.people.conventions import conventions_of
from oido.takes.bars import bar_states
from oido.takes.forms import take_form_from_body
from oido.takes.models import Source, Take
from oido.takes.queries import visible_takes
from oido.takes.robots import ROBOTS
from oido.takes.services import NoMoreTakes, receive_take


@require_GET
@for_students
def stand(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The student's page for one exercise."""
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    part = assignment.exercise.part.read()
    shows_chords = LabelKind.CHORDS in assignment.exercise.shown_labels
    context = {
        "assignment": assignment,
        "exercise": assignment.exercise,
        "part": part,
        "page": exercise_page(assignment.exercise, part, conventions_of(request.user)),
        "stand": {
            **playing_data(part, left_handed=request.user.left_handed),
            "part": assignment.exercise.part.pk,
            "countInBars": assignment.exercise.count_in_bars,
            "middleC": request.user.school.middle_c_octave,
            **recording_data(assignment.exercise),
        },
        "cards": chord_cards(part, conventions=conventions_of(request.user)) if shows_chords else (),
        "switches": label_switches(assignment.exercise, part),
        "sources": [s for s in Source if s != Source.ROBOT or settings.IS_DEMO],
        "robots": ROBOTS if settings.IS_DEMO else {},
        **takes_context(request, assignment),
    }
    return render(request, "takes/stand.html", context)


@require_GET
@for_students
def stand_notation(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The part drawn as notation."""
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    exercise = assignment.exercise
    svg = notation_svg(
        exercise.part.read(), width=PAGE_WIDTH, labels=exercise.shown_labels,
        conventions=conventions_of(request.user),
    )  # fmt: skip
    return render(request, "ui/notation_drawn.html", {"svg": svg})


def takes_context(request: HttpRequest, assignment: Assignment) -> dict:
    """The student's takes of an assignment, each with the state of its bars."""
    takes = (
        Take.objects.filter(assignment=assignment, student=request.user)
        .select_related("measurement", "sheet", "part")
        .defer("events", "part__source_file")
        .order_by("-number")
    )
    rows = []
    for take in takes:
        result = take.measurement.result
        notes = [n for n in result["ear_notes"] if not n["praise"]] or result["ear_notes"]
        rows.append(
            {
                "take": take,
                "bars": bar_states(take.part.read(), result),
                "said": notes[0]["student"] if notes else "",
                "played_bpm": result["measures"]["played_bpm"],
            }
        )
    handed_in = next((r["take"] for r in rows if r["take"].is_handed_in), None)
    sheet = getattr(handed_in, "sheet", None)
    rules = assignment.exercise.recording_rules
    return {
        "assignment": assignment,
        "rows": rows,
        "handed_in": handed_in,
        "is_closed": bool(sheet and sheet.is_released),
        "attempts_left": None if rules.attempts is None else max(0, rules.attempts - len(rows)),
        "takes_missing": max(0, rules.least_takes - len(rows)),
    }


@require_POST
@for_students
def upload(request: HttpRequest, pk: int) -> HttpResponseBase:
    """Receive one take as JSON; answers with the list of takes."""
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    form = take_form_from_body(request.body)
    if not form.is_valid():
        return JsonResponse({"errors": form.errors}, status=422)
    try:
        receive_take(request.user, assignment, form.new_take())
    except NoMoreTakes:
        words = _("all takes that this exercise allows are recorded already")
        return JsonResponse({"errors": {"id": [words]}}, status=422)
    return render(request, "takes/_takes.html", takes_context(request, assignment), status=201)


@require_GET
@for_students
def robot(request: HttpRequest, pk: int) -> HttpResponseBase:
    """The events of a robot player, for the Stand to play as if they came from an instrument."""
    if not settings.IS_DEMO:
        raise Http404
    assignment = get_object_or_404(visible_assignments(request.user), pk=pk)
    habits = ROBOTS.get(request.GET.get("habits", "steady"))
    seed = request.GET.get("seed", "1")
    if habits is None or not seed.isdigit():
        raise Http404
    take = play(assignment.exercise.part.read(), habits.habits, seed=int(seed))
    return JsonResponse({"events": events_from_take(take)})


@require_GET
def take_file(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """A take as a Standard MIDI File, with the exercise's count-in before it."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    count_in = take.assignment.exercise.count_in_bars
    data = write_take(take.read(), part=take.part.read(), count_in_bars=count_in)
    response = HttpResponse(data, content_type="audio/midi")
    response["Content-Disposition"] = f'attachment; filename="take-{take.number}.mid"'
    return response


@require_GET
def take_notes(request: HttpRequest, pk: uuid.UUID) -> HttpResponseBase:
    """A take's notes for the page's player: [onset_s, length_s, pitch, velocity]."""
    take = get_object_or_404(visible_takes(request.user), pk=pk)
    return JsonResponse({"take": playing_data(take.part.read(), take.read())["take"]})
