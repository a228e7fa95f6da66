"""The part in words, for who does not see the page: stepped through, and as a page of text."""

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

from ear.drawing.in_words import describe_moment, describe_moment_place, text_of
from ear.formats.plain_writing import plain_lines
from ear.notation.moments import moments
from ear.notes import Part
from oido.assignments.student_terms import StudentTerms
from oido.exercises.pages import FINE
from oido.people.conventions import reader_of
from oido.people.requests import Request
from oido.stand.views.stand import in_key, links_of
from oido.takes.hearing import is_hidden


def _part(request: Request, student_terms: StudentTerms) -> Part:
    """Return the part. Raise Http404 if it is not to be shown, because words would show it too."""
    if is_hidden(request.user, student_terms):
        raise Http404
    return in_key(
        student_terms.exercise.part_in_force.read(), student_terms.exercise, request.GET.get("key", "")
    )


@require_GET
def words(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """Moments of the part, one after the other, with what a script needs to step through them and to sound them."""
    part, reader = _part(request, student_terms), reader_of(request.user)
    described = [
        {
            "second": round(part.tempos.second_at(moment.tick), FINE), "bar": moment.bar, "beat": moment.beat,
            "hand": moment.hand.value if moment.hand else "", "place": describe_moment_place(part, moment, reader),
            "said": describe_moment(part, moment, reader), "pitches": [part.notes[n].pitch for n in moment.notes],
        }
        for moment in moments(part)
    ]  # fmt: skip
    context = {
        "told": described, "links": links_of(request, student_terms), "assignment": student_terms.assignment,
        "has_braille": part.instrument.has_key and not student_terms.is_trial,
    }  # fmt: skip
    return render(request, "stand/_words.html", context)


@require_GET
def text(request: Request, student_terms: StudentTerms) -> HttpResponseBase:
    """The part as a page of text; with `plain` a line for each bar in letters and figures alone."""
    part, reader = _part(request, student_terms), reader_of(request.user)
    body = plain_lines(part, reader.conventions) if "plain" in request.GET else text_of(part, reader)
    title = _("%(title)s, %(n)s bars") % {"title": student_terms.exercise.title, "n": part.last_bar}
    return HttpResponse(f"{title}\n\n{body}", content_type="text/plain; charset=utf-8")
