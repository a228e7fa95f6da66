"""Coming in by oneself: by the code of a class, by an invitation."""

from typing import Any

from django import forms
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponseBase
from django.shortcuts import redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_http_methods

from oido.access.guesses import GuessKind
from oido.access.views import BACKEND, wrong_code
from oido.people.middleware import CHOSEN
from oido.people.models import Membership, Role, School, User
from oido.people.quotas import NoRoom
from oido.roster import joining
from oido.roster.forms import TAKEN, NewAccountForm
from oido.roster.joining import AlreadyStaff, NewAccount
from oido.roster.people import NameTaken


class ClassCodeForm(forms.Form):
    code = forms.CharField(
        label=gettext_lazy("Join code"), max_length=30, help_text=gettext_lazy("Two groups of four letters and digits."),
        widget=forms.TextInput(attrs={"autocomplete": "off", "autocapitalize": "characters", "spellcheck": "false"}),
    )  # fmt: skip


@never_cache
@login_not_required
@require_http_methods(["GET", "POST"])
def enter_code(request: HttpRequest) -> HttpResponseBase:
    form = ClassCodeForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        code_row = joining.class_code(form.cleaned_data["code"])
        if code_row is not None:
            return redirect("join-class", code=code_row.code)
        if (answer := wrong_code(request, GuessKind.CLASS_CODE)) is not None:
            return answer
        form.add_error("code", _("This code is wrong, or closed. Ask your teacher for the current code."))
    return render(request, "roster/enter_code.html", {"form": form}, status=422 if form.is_bound else 200)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def join_class(request: HttpRequest, code: str) -> HttpResponseBase:
    """Whoever is signed in joins as who they are; others make an account, or sign in first."""
    code_row = joining.class_code(code)
    if code_row is None:
        if (answer := wrong_code(request, GuessKind.CLASS_CODE)) is not None:
            return answer
        return render(request, "roster/code_over.html", status=404)
    problem = ""
    form, who = _whoever(request)
    if who is not None:
        try:
            return _inside(request, joining.join_by_code(who, code_row), code_row.school)
        except AlreadyStaff:
            problem = _("You teach in this school, so you cannot join a class as a student.")
        except NameTaken:
            form.add_error("username", TAKEN)
        except NoRoom as no_room:
            problem = no_room.sentence
    context = {
        "form": form,
        "title": code_row.school_class.name,
        "school": code_row.school,
        "problem": problem,
    }
    return render(request, "roster/join.html", context, status=422 if request.method == "POST" else 200)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def invitation(request: HttpRequest, token: str) -> HttpResponseBase:
    open_invitation = joining.invitation_of(token)
    if open_invitation is None:
        return render(request, "roster/code_over.html", status=410)
    problem = ""
    form, who = _whoever(request, email=open_invitation.email)
    if who is not None:
        try:
            return _inside(request, joining.accept(open_invitation, who), open_invitation.school)
        except NameTaken:
            form.add_error("username", TAKEN)
        except NoRoom as no_room:
            problem = no_room.sentence
    title = open_invitation.school_class.name if open_invitation.school_class else open_invitation.school.name
    context = {
        "form": form,
        "title": title,
        "school": open_invitation.school,
        "role": Role(open_invitation.role).label,
        "problem": problem,
    }
    return render(request, "roster/join.html", context, status=422 if request.method == "POST" else 200)


def _whoever(request: HttpRequest, *, email: str = "") -> tuple[NewAccountForm, User | NewAccount | None]:
    """Who is signed in and says yes, or what somebody typed to make an account; else nobody, and the form."""
    user: Any = request.user
    if user.is_authenticated:
        return NewAccountForm(), user if request.method == "POST" else None
    form = NewAccountForm(request.POST or None)
    if request.method != "POST" or not form.is_valid():
        return form, None
    typed = form.cleaned_data
    return form, NewAccount(
        first=typed["first"], last=typed["last"], username=typed["username"], password=typed["password1"],
        email=email,
    )  # fmt: skip


def _inside(request: HttpRequest, person: User, school: School) -> HttpResponseBase:
    if not request.user.is_authenticated:
        login(request, person, backend=BACKEND)
    request.session[CHOSEN] = Membership.everywhere.get(person=person, school=school).pk
    return redirect("home")
