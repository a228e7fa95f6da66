"""Signing in by password, slip or letter; the account of whoever is signed in."""

import time
from typing import Any

import segno
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import SetPasswordForm
from django.contrib.auth.tokens import default_token_generator
from django.contrib.auth.views import LoginView
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.http import url_has_allowed_host_and_scheme, urlsafe_base64_decode
from django.utils.translation import gettext as _
from django.views.decorators.cache import never_cache
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_GET, require_http_methods

from oido.access import services
from oido.access.forms import CodeForm, OwnEmailForm, PasswordChangeForm, ResetForm, TokenForm
from oido.access.guesses import is_locked, was_wrong
from oido.access.models import SignedIn
from oido.access.sessions import end_session, end_sessions, sessions_of
from oido.audit.models import Act
from oido.audit.services import remember
from oido.common.methods import can_be_looked_at, only_post
from oido.people.models import User
from oido.people.requests import Request

BACKEND = "oido.people.backend.MemberBackend"
HALF_IN = "half_in"
"""In the session: who has given the right password and is asked for the second factor, since when, and where to then."""
HALF_IN_S = 600.0
WITH_CODE = "with_code"
"""In the session: the slip whose code was typed, until a password is chosen."""
SLIP = "slip"
"""What is counted by the lock-out in the place of a sign-in name, where codes are typed."""


class SignIn(LoginView):
    template_name = "access/sign_in.html"
    redirect_authenticated_user = True

    def get_redirect_url(self, request: Any = None) -> str:
        """Where somebody wanted to go, if that is a page of ours that can be looked at."""
        url = super().get_redirect_url()
        return url if url and can_be_looked_at(url) else ""

    def form_valid(self, form: Any) -> HttpResponse:
        person = form.get_user()
        if services.second_factor_of(person) is None:
            return super().form_valid(form)
        self.request.session[HALF_IN] = [person.pk, time.time(), self.get_redirect_url()]
        return redirect("second-factor")

    def get_context_data(self, **kwargs: Any) -> dict[str, Any]:
        context = super().get_context_data(**kwargs)
        return context | settings.DEMO_ACCOUNTS if settings.IS_DEMO else context


def locked_out(
    request: HttpRequest, answer: HttpResponse | None = None, credentials: dict[str, Any] | None = None
) -> HttpResponse:
    """What the lock-out answers."""
    minutes = round(settings.AXES_COOLOFF_TIME.total_seconds() / 60)
    person = User.objects.filter(username=(credentials or {}).get("username")).first()
    since = timezone.now() - settings.AXES_COOLOFF_TIME
    if (
        person is not None
        and not Act.everywhere.filter(code="locked_out", actor=person, at__gte=since).exists()
    ):
        # Told once: who goes on guessing writes no further lines.
        remember("locked_out", actor=person)
    return render(request, "access/locked_out.html", {"minutes": minutes}, status=429)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def second_factor(request: HttpRequest) -> HttpResponseBase:
    """Asked of those who have switched it on, after the password."""
    pk, since, url = request.session.get(HALF_IN) or (0, 0.0, "")
    person = User.objects.filter(pk=pk, is_active=True).first()
    if person is None or time.time() - since > HALF_IN_S:
        return redirect("sign-in")
    form = TokenForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        if services.is_second_factor(person, form.cleaned_data["token"]):
            del request.session[HALF_IN]
            login(request, person, backend=BACKEND)
            is_ours = url_has_allowed_host_and_scheme(url, {request.get_host()}) and can_be_looked_at(url)
            return redirect(url if url and is_ours else "home")
        form.add_error("token", _("This code is wrong or used. Wait for the next one."))
    status = 422 if request.method == "POST" else 200
    return render(request, "access/second_factor.html", {"form": form}, status=status)


@never_cache
@login_not_required
@require_http_methods(["GET", "POST"])
def slip(request: HttpRequest, code: str = "") -> HttpResponseBase:
    """The code of a printed slip: typed here, or in the address that its square picture leads to."""
    form = CodeForm(request.POST or None, initial={"code": code})
    status = 200
    if request.method == "POST":
        status = 422
        if is_locked(request, SLIP):
            return locked_out(request)
        if form.is_valid():
            found = services.person_of_code(form.cleaned_data["code"])
            if found is not None:
                request.session[WITH_CODE] = found.pk
                return redirect("choose-password")
            was_wrong(request, SLIP)
            form.add_error(
                "code", _("This code is wrong, used or out of date. Ask your teacher for a new slip.")
            )
    return render(request, "access/slip.html", {"form": form}, status=status)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def choose_password(request: HttpRequest) -> HttpResponseBase:
    """After a slip's code."""
    found = services.waiting_code(request.session.get(WITH_CODE))
    if found is None:
        return redirect("slip")
    form = SetPasswordForm(found.person, request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = services.use_code(found, form.cleaned_data["new_password1"])
        del request.session[WITH_CODE]
        if person is None:
            return redirect("slip")
        return _let_in(request, person)
    context = {"form": form, "person": found.person, "school": found.school}
    return render(request, "access/choose_password.html", context, status=422 if form.is_bound else 200)


@never_cache
@login_not_required
@require_http_methods(["GET", "POST"])
def ask_reset(request: HttpRequest) -> HttpResponseBase:
    """A new password by mail. The answer is the same whether there is somebody with this address or not."""
    form = ResetForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        services.write_reset(form.cleaned_data["email"])
        return render(request, "access/reset_asked.html")
    return render(request, "access/reset.html", {"form": form}, status=422 if form.is_bound else 200)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def reset_password(request: HttpRequest, uid: str, token: str) -> HttpResponseBase:
    """The page that the letter leads to."""
    person = _person_of(uid)
    if person is None or not default_token_generator.check_token(person, token):
        return render(request, "access/reset_over.html", status=410)
    form = SetPasswordForm(person, request.POST or None)
    if request.method == "POST" and form.is_valid():
        services.change_password(person, form.cleaned_data["new_password1"])
        return _let_in(request, person)
    return render(
        request,
        "access/choose_password.html",
        {"form": form, "person": person},
        status=422 if form.is_bound else 200,
    )


def _person_of(uid: str) -> User | None:
    try:
        return User.objects.filter(pk=int(urlsafe_base64_decode(uid)), is_active=True).first()
    except (ValueError, OverflowError):
        return None


def _let_in(request: HttpRequest, person: User) -> HttpResponseBase:
    """With a new password; the second factor is asked for all the same."""
    if services.second_factor_of(person) is not None:
        request.session[HALF_IN] = [person.pk, time.time(), ""]
        return redirect("second-factor")
    login(request, person, backend=BACKEND)
    return redirect("home")


@never_cache
@require_http_methods(["GET", "POST"])
def account(request: Request) -> HttpResponseBase:
    """One's own schools, password, sessions, second factor."""
    form = OwnEmailForm(request.POST or None, initial={"email": request.user.email})
    if request.method == "POST" and form.is_valid():
        User.objects.filter(pk=request.user.pk).update(email=form.cleaned_data["email"])
        messages.success(request, _("Saved."))
        return redirect("account")
    context = {
        "email_form": form,
        "memberships": request.user.member_of,
        "sessions": sessions_of(request.user),
        "here": request.session.session_key,
        "second_factor": services.second_factor_of(request.user),
    }
    return render(request, "access/account.html", context, status=422 if form.is_bound else 200)


@never_cache
@sensitive_post_parameters()
@require_http_methods(["GET", "POST"])
def change_password(request: Request) -> HttpResponseBase:
    form = PasswordChangeForm(request.user, request.POST or None)
    if request.method == "POST" and form.is_valid():
        services.change_password(
            request.user, form.cleaned_data["new_password1"], but=request.session.session_key
        )
        update_session_auth_hash(request, request.user)
        # Its key has changed with it.
        SignedIn.objects.filter(person=request.user).update(session_key=request.session.session_key)
        messages.success(request, _("Your password is changed. You are signed out everywhere else."))
        return redirect("account")
    return render(
        request, "access/change_password.html", {"form": form}, status=422 if form.is_bound else 200
    )


@only_post
def end_one(request: Request, pk: int) -> HttpResponseBase:
    """End a session of one's own; this one by signing out."""
    row = get_object_or_404(SignedIn, pk=pk, person=request.user)
    if row.session_key == request.session.session_key:
        raise Http404
    end_session(row)
    remember("session_ended", actor=request.user)
    return redirect("account")


@only_post
def end_others(request: Request) -> HttpResponseBase:
    count = end_sessions(request.user, but=request.session.session_key)
    if count:
        remember("session_ended", actor=request.user)
    messages.success(request, _("You are signed out everywhere else."))
    return redirect("account")


@never_cache
@require_http_methods(["GET", "POST"])
def set_up_second_factor(request: Request) -> HttpResponseBase:
    """Read the square with an app, type its code, write down the spare ones."""
    device = services.begin_second_factor(request.user)
    form = TokenForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        codes = services.confirm_second_factor(request.user, form.cleaned_data["token"])
        if codes is not None:
            return render(request, "access/backup_codes.html", {"codes": codes})
        form.add_error("token", _("This code is wrong. Check the clock of your phone, and try the next one."))
    picture = segno.make(device.config_url).svg_data_uri(scale=5, dark="#1a1a1a", light="#ffffff")
    context = {
        "form": form,
        "picture": picture,
        "secret": device.config_url.split("secret=")[1].split("&")[0],
    }
    return render(request, "access/set_up_second_factor.html", context, status=422 if form.is_bound else 200)


@only_post
def drop_second_factor(request: Request) -> HttpResponseBase:
    services.drop_second_factor(request.user)
    messages.success(request, _("Signing in asks only for your password now."))
    return redirect("account")


@require_GET
@login_not_required
def slip_by_picture(request: HttpRequest, code: str) -> HttpResponseBase:
    """The address in the square picture. Looking at it uses nothing up: the button does."""
    return slip(request, code)
