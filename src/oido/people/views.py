from django.http import Http404, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from oido.common.methods import only_post
from oido.people import services
from oido.people.conventions import conventions_of
from oido.people.forms import OwnNamingForm, SchoolNamingForm
from oido.people.middleware import CHOSEN
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
def naming(request: Request) -> HttpResponseBase:
    """How notes and values are named: one's own way, and for teachers the school's."""
    user = request.user
    own = OwnNamingForm(request.POST if "own" in request.POST else None, instance=user)
    school = None
    if user.is_teacher and user.school is not None:
        school = SchoolNamingForm(request.POST if "school" in request.POST else None, instance=user.school)
    if own.is_bound and own.is_valid():
        services.set_own_naming(user, own)
        return redirect("naming")
    if school is not None and school.is_bound and school.is_valid():
        services.set_school_naming(user, school)
        return redirect("naming")
    wrong = own.errors or (school is not None and school.errors)
    context = {"own": own, "school": school, "example": conventions_of(user)}
    return render(request, "people/naming.html", context, status=422 if wrong else 200)


@only_post
def choose_school(request: Request, pk: int) -> HttpResponseBase:
    """Go on as the member of another school."""
    membership = next((member for member in request.user.member_of if member.pk == pk), None)
    if membership is None:
        raise Http404
    services.choose_school(membership)
    request.session[CHOSEN] = pk
    return redirect("home")
