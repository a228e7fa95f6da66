"""The tour of a page, where it has one."""

from typing import Any

from django import template

from oido.help.tours import has_seen, tour_of

register = template.Library()


@register.inclusion_tag("help/_tour.html", name="tour", takes_context=True)
def offer_tour(context: dict[str, Any]) -> dict[str, Any]:
    """Offer the page's tour to someone who has neither taken nor declined it; begin it if the address asks for it."""
    request = context.get("request")
    match = getattr(request, "resolver_match", None)
    if request is None or match is None or not request.user.is_authenticated:
        return {}
    tour = tour_of(match.url_name, is_staff=request.user.is_teacher)
    is_wanted = "tour" in request.GET
    if tour is None or (has_seen(request.user, tour) and not is_wanted):
        return {}
    csrf_token = context.get("csrf_token")
    return {"tour": tour, "is_wanted": is_wanted, "request": request, "csrf_token": csrf_token}
