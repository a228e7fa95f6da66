from typing import Any

from django.conf import settings
from django.contrib.auth.views import LoginView
from django.http import HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_http_methods

from oido.common.methods import can_be_looked_at
from oido.people import services
from oido.people.conventions import conventions_of
from oido.people.forms import OwnNamingForm, SchoolNamingForm
from oido.people.models import User
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
def naming(request: Request) -> HttpResponseBase:
    """How notes and values are named: one's own way, and for teachers the school's."""
    user = User.objects.select_related("school").get(pk=request.user.pk)
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
    context = {"own": own, "school": school, "example": conventions_of(User.objects.get(pk=user.pk))}
    return render(request, "people/naming.html", context, status=422 if wrong else 200)


class SignIn(LoginView):
    template_name = "people/sign_in.html"
    redirect_authenticated_user = True

    def get_redirect_url(self, request: Any = None) -> str:
        """Where somebody wanted to go, if that is a page of ours that can be looked at."""
        url = super().get_redirect_url()
        return url if url and can_be_looked_at(url) else ""

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        context = super().get_context_data(**kwargs)
        return context | settings.DEMO_ACCOUNTS if settings.IS_DEMO else context
