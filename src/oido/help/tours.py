"""Tours: five steps round a page, offered on the first visit."""

from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest
from django.utils.translation import gettext_lazy as _

from oido.people.models import User


@dataclass(frozen=True, slots=True, kw_only=True)
class TourStep:
    """`at` is a CSS selector of what the step is about; on a page without it, the step is shown by itself."""

    at: str
    title: Any
    text: Any


@dataclass(frozen=True, slots=True, kw_only=True)
class Tour:
    slug: str
    offer: Any
    steps: tuple[TourStep, ...]


STAND = Tour(
    slug="stand", offer=_("Show me round the Stand"),
    steps=(
        TourStep(at=".stage .music", title=_("The music"), text=_("This is what you play. Click a note to hear it, or press “Listen” to hear the whole piece.")),
        TourStep(at="[data-check]", title=_("What you play on"), text=_("A MIDI keyboard, this computer’s keys, or keys on the screen. Play a note, and Oido tells you what it heard.")),
        TourStep(at=".how", title=_("How you play"), text=_("Choose the tempo, the bars and the hand. Start slowly: practice is not handed in.")),
        TourStep(at="[data-practise]", title=_("Practise"), text=_("Oido loops the bars you choose and tells you how each loop went. The ladder takes you step by step to the whole piece.")),
        TourStep(at="[data-record]", title=_("Record and hand in"), text=_("After the count-in, play to the end. Each take appears below the music; you choose which one to hand in.")),
    ),
)  # fmt: skip
BENCH = Tour(
    slug="bench", offer=_("Show me round the Bench"),
    steps=(
        TourStep(at=".bench-page", title=_("The music"), text=_("Click a note to pick it and hear it, then drag it to another place or pitch. Drag its end to make it longer.")),
        TourStep(at=".strip", title=_("Tools"), text=_("Tools change the notes you have picked, or all of them if you have picked none. Each one shows you the result before you apply it.")),
        TourStep(at=".bench-margin", title=_("The part as text"), text=_("The same notes, bar by bar, if you prefer to type.")),
        TourStep(at="#bench-undo", title=_("Undo"), text=_("You can undo every step, as far back as you like, even tomorrow.")),
        TourStep(at="#bench-bar", title=_("Save"), text=_("Students can’t see your changes until you save.")),
    ),
)  # fmt: skip
DESK = Tour(
    slug="desk", offer=_("Show me round the marking desk"),
    steps=(
        TourStep(at="#page-of-take", title=_("What was played"), text=_("Outlines are the written notes, filled bars are the take. Click a note to see its figures, and to say that it counts as right.")),
        TourStep(at="[aria-labelledby=heard]", title=_("What Oido heard"), text=_("The most important things come first, with what each one cost. “Hear it” plays that passage.")),
        TourStep(at="#mark", title=_("The mark"), text=_("Click a score to enter your own and say why. “Show the working” shows every sum.")),
        TourStep(at="#remarks", title=_("Remarks"), text=_("Write to the student about one bar or the whole take. You can save phrases that you use often.")),
        TourStep(at=".desk-top", title=_("Release"), text=_("The student can read the mark and your remarks once you release it. You then go straight to the next take.")),
    ),
)  # fmt: skip
TEMPLATE = "help/_tour.html"
TOURS = {tour.slug: tour for tour in (STAND, BENCH, DESK)}
OF_PAGES = {"stand": STAND, "trial-stand": STAND, "bench": BENCH, "take": DESK}
"""By the name of a page’s address."""
FOR_STAFF = frozenset({BENCH, DESK})


def tour_of(page: str | None, *, is_staff: bool) -> Tour | None:
    """Return the tour of a page for its reader, if it has one."""
    tour = OF_PAGES.get(page or "")
    return None if tour in FOR_STAFF and not is_staff else tour


def has_seen(user: User, tour: Tour) -> bool:
    return tour.slug in user.tours_seen.split()


def keep_as_seen(user: User, tour: Tour) -> None:
    """Keep that a person has taken or declined a tour, so that it is not offered again."""
    if not has_seen(user, tour):
        user.tours_seen = f"{user.tours_seen} {tour.slug}".strip()
        user.save(update_fields=["tours_seen"])


@dataclass(frozen=True, slots=True, kw_only=True)
class OfferedTour:
    """`is_wanted`: the address asks for the tour, so it begins at once."""

    tour: Tour
    is_wanted: bool
    template: str = TEMPLATE


def offer_tour(request: HttpRequest) -> dict[str, OfferedTour]:
    """Put the page's tour into its context for someone who has neither taken nor declined it, or asks for it."""
    match, user = request.resolver_match, getattr(request, "user", None)
    if match is None or user is None or not user.is_authenticated or match.url_name not in OF_PAGES:
        return {}
    tour, is_wanted = tour_of(match.url_name, is_staff=user.is_teacher), "tour" in request.GET
    if tour is None or (has_seen(user, tour) and not is_wanted):
        return {}
    return {"offered_tour": OfferedTour(tour=tour, is_wanted=is_wanted)}
