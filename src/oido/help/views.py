"""Help: the guides, the one for the page that somebody comes from, and a search through all of them."""

from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import Resolver404, ResolverMatch, resolve, reverse
from django.utils.translation import get_language
from django.utils.translation import gettext_lazy as _
from django.views.decorators.http import require_GET

from oido.common.methods import can_be_looked_at, only_post
from oido.help.guides import Guide, read_guides, search
from oido.help.pages import page_help
from oido.help.tours import TOURS, keep_as_seen, tour_of
from oido.people.requests import Request

FOR_STUDENTS = ("student", "access", "measurement")
FOR_STAFF = ("bench", "report", "school", "term", "student", "access", "measurement", "operating")
ABOUT = {
    "student": _("Practising, recording and handing in."),
    "bench": _("Writing and editing a part, and an exercise’s ladder."),
    "report": _("Reading a take, marking it, writing remarks and releasing marks."),
    "school": _("People, classes, sign-in and who may change what."),
    "term": _("Exercises and booklets, giving them to classes, marks and reports."),
    "access": _("By keyboard, by ear alone, on small screens; and what does not work yet."),
    "measurement": _("How timing, notes and dynamics become a mark."),
    "operating": _("For the people who run Oido on a server."),
}
BY_APP = {
    "oido.bench": "bench", "oido.exercises": "term", "oido.booklets": "term", "oido.assignments": "term",
    "oido.gradebook": "term", "oido.rubrics": "report", "oido.reports": "report", "oido.desk": "report", "oido.marking": "report",
    "oido.feedback": "report", "oido.progress": "report", "oido.roster": "school", "oido.classes": "school",
    "oido.access": "school", "oido.people": "school", "oido.leaving": "school", "oido.audit": "school", "oido.post": "school",
    "oido.opening": "school",
}  # fmt: skip
"""The guide that explains an app's pages to staff. The guide of students explains all of theirs."""


def _guides_for(request: Request) -> list[tuple[Guide, object]]:
    guides = read_guides(get_language() or "")
    return [(guides[slug], ABOUT[slug]) for slug in (FOR_STAFF if request.user.is_teacher else FOR_STUDENTS)]


@require_GET
def index(request: Request) -> HttpResponseBase:
    """The guides and the search; with `page`, the help for this page, or else the guide that explains it."""
    path = request.GET.get("page", "")
    match = _match_of(path)
    if match is not None:
        help_of_page = page_help(match.url_name, is_staff=request.user.is_teacher)
        if help_of_page is not None:
            return render(
                request,
                "help/page.html",
                {
                    "help": help_of_page,
                    "back": path,
                    "tour": tour_of(match.url_name, is_staff=request.user.is_teacher),
                },
            )
        slug = _guide_of_page(match, is_staff=request.user.is_teacher)
        if slug is not None:
            return redirect("guide", slug=slug)
    words = request.GET.get("q", "")[:100]
    guides = _guides_for(request)
    context = {"guides": guides, "words": words, "hits": search(words, [guide for guide, _about in guides])}
    return render(request, "help/index.html", context)


def _match_of(path: str) -> ResolverMatch | None:
    """Return what answers at a path of this application."""
    try:
        return resolve(path)
    except Resolver404:
        return None


def _guide_of_page(match: ResolverMatch, *, is_staff: bool) -> str | None:
    if not is_staff:
        return "student"
    module = match.func.__module__
    return next((slug for app, slug in BY_APP.items() if module.startswith(app + ".")), None)


@require_GET
def guide(request: Request, slug: str) -> HttpResponseBase:
    shown = next((guide for guide, _about in _guides_for(request) if guide.slug == slug), None)
    if shown is None:
        raise Http404
    return render(request, "help/guide.html", {"guide": shown})


@only_post
def tour_seen(request: Request, slug: str) -> HttpResponseBase:
    """Offer a tour no more: it was taken, or declined."""
    tour = TOURS.get(slug)
    if tour is None:
        raise Http404
    keep_as_seen(request.user, tour)
    if request.headers.get("Sec-Fetch-Mode", "navigate") != "navigate":
        return HttpResponse(status=204)
    back = request.POST.get("back", "")
    return redirect(back if can_be_looked_at(back) else reverse("home"))
