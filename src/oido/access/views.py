"""Signing in by password, slip or e-mail; the account of whoever is signed in."""

import math
import time
from typing import Any

import segno
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.decorators import login_not_required
from django.contrib.auth.forms import AuthenticationForm, SetPasswordForm
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
from oido.access.emails import (
    EmailRequest,
    confirm_email_change,
    email_change_of,
    pending_address,
    request_email_changes,
)
from oido.access.forms import (
    CodeForm,
    OwnEmailForm,
    OwnPasswordForm,
    PasswordChangeForm,
    ResetForm,
    TokenForm,
)
from oido.access.guesses import (
    GuessKind,
    address_of,
    count_wrong,
    is_known_browser,
    remember_browser,
    source_of_person,
    wait_minutes,
    wait_s,
)
from oido.access.models import SignedIn
from oido.access.sessions import end_session, end_sessions, keep_session, sessions_of
from oido.access.two_step import PASSED, pass_two_step
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


class SignInForm(AuthenticationForm):
    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.fields["username"].label = _("Sign-in name")


class SignIn(LoginView):
    form_class = SignInForm
    template_name = "access/sign_in.html"
    redirect_authenticated_user = True

    def get_redirect_url(self, request: Any = None) -> str:
        """Where somebody wanted to go, if that is a page of ours that can be looked at."""
        url = super().get_redirect_url()
        return url if url and can_be_looked_at(url) else ""

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        person = User.objects.filter(username=request.POST.get("username", "")).first()
        wait = wait_s(GuessKind.PASSWORD, address_of(request))
        if wait and not is_known_browser(request, person):
            return too_many_guesses(request, wait)
        return super().post(request, *args, **kwargs)

    def form_invalid(self, form: Any) -> HttpResponse:
        if form.is_bound and form.cleaned_data.get("password"):
            count_wrong(GuessKind.PASSWORD, address_of(self.request))
        return super().form_invalid(form)

    def form_valid(self, form: Any) -> HttpResponse:
        person = form.get_user()
        if services.second_factor_of(person) is None:
            answer = super().form_valid(form)
            remember_browser(self.request, answer, person)
            return answer
        self.request.session[HALF_IN] = [person.pk, time.time(), self.get_redirect_url()]
        return redirect("second-factor")

    def get_context_data(self, **kwargs: Any) -> dict[str, object]:
        context = super().get_context_data(**kwargs)
        context["sign_in_service"] = settings.SIGN_IN_SERVICE
        return context | settings.DEMO_ACCOUNTS if settings.IS_DEMO else context


def locked_out(
    request: HttpRequest, answer: HttpResponse | None = None, credentials: dict[str, object] | None = None
) -> HttpResponse:
    """Answer somebody who has tried one name too often from one address."""
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


def too_many_guesses(request: HttpRequest, wait: float) -> HttpResponse:
    """Say how long the next guess has to wait."""
    context = {"minutes": wait_minutes(wait)}
    answer = render(request, "access/locked_out.html", context, status=429)
    answer["Retry-After"] = str(math.ceil(wait))
    return answer


def wrong_code(request: HttpRequest, kind: GuessKind) -> HttpResponse | None:
    """Count a wrong code; the answer where its sender has to wait now, else None."""
    wait = count_wrong(kind, address_of(request))
    return too_many_guesses(request, wait) if wait else None


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
            pass_two_step(request)
            is_ours = url_has_allowed_host_and_scheme(url, {request.get_host()}) and can_be_looked_at(url)
            answer = redirect(url if url and is_ours else "home")
            remember_browser(request, answer, person)
            return answer
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
        if form.is_valid():
            code_row = services.person_of_code(form.cleaned_data["code"])
            if code_row is not None:
                request.session[WITH_CODE] = code_row.pk
                return redirect("choose-password")
            if (answer := wrong_code(request, GuessKind.SLIP)) is not None:
                return answer
            form.add_error("code", _("This code is wrong, used or expired. Ask your teacher for a new slip."))
    return render(request, "access/slip.html", {"form": form}, status=status)


@never_cache
@sensitive_post_parameters()
@login_not_required
@require_http_methods(["GET", "POST"])
def choose_password(request: HttpRequest) -> HttpResponseBase:
    """After a slip's code."""
    code_row = services.waiting_code(request.session.get(WITH_CODE))
    if code_row is None:
        return redirect("slip")
    form = SetPasswordForm(code_row.person, request.POST or None)
    if request.method == "POST" and form.is_valid():
        person = services.use_code(code_row, form.cleaned_data["new_password1"])
        del request.session[WITH_CODE]
        if person is None:
            return redirect("slip")
        return _let_in(request, person)
    context = {"form": form, "person": code_row.person, "school": code_row.school}
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
    """The page that the e-mail leads to."""
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
    answer = redirect("home")
    remember_browser(request, answer, person)
    return answer


def _has_own_password(request: Request, form: OwnPasswordForm) -> bool:
    """Did the person who is signed in type their password? If not, the form says so; after five wrong ones they wait."""
    source = source_of_person(request.user)
    if wait_s(GuessKind.OWN_PASSWORD, source):
        form.add_error("current_password", _("Too many wrong passwords. Wait a few minutes, then try again."))
        return False
    if request.user.check_password(form.cleaned_data["current_password"]):
        return True
    count_wrong(GuessKind.OWN_PASSWORD, source)
    form.add_error("current_password", _("This is not your password."))
    return False


@never_cache
@sensitive_post_parameters()
@require_http_methods(["GET", "POST"])
def account(request: Request) -> HttpResponseBase:
    """Show a person's own schools, sessions, e-mail address and second factor."""
    waiting = pending_address(request.user)
    form = OwnEmailForm(request.POST or None, initial={"email": waiting or request.user.email})
    if request.method == "POST" and form.is_valid() and _has_own_password(request, form):
        address = form.cleaned_data["email"]
        request_email_changes(request.user, [EmailRequest(request.user, address)])
        if pending_address(request.user):
            message = _("An e-mail is on its way to %(email)s. Open the link in it to confirm the address.")
            messages.success(request, message % {"email": address})
        else:
            messages.success(request, _("Saved."))
        return redirect("account")
    context = {
        "pending_address": waiting,
        "email_form": form,
        "memberships": request.user.member_of,
        "sessions": sessions_of(request.user),
        "here": request.session.session_key,
        "second_factor": services.second_factor_of(request.user),
        "must_keep_two_step": services.must_keep_two_step(request.user),
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
        keep_session(request.user, request.session.session_key)
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
            pass_two_step(request)
            return render(request, "access/backup_codes.html", {"codes": codes})
        form.add_error("token", _("This code is wrong. Check the clock of your phone, and try the next one."))
    picture = segno.make(device.config_url).svg_data_uri(scale=5, dark="#1a1a1a", light="#ffffff")
    context = {
        "form": form,
        "picture": picture,
        "secret": device.config_url.split("secret=")[1].split("&")[0],
    }
    return render(request, "access/set_up_second_factor.html", context, status=422 if form.is_bound else 200)


@never_cache
@sensitive_post_parameters()
@require_http_methods(["GET", "POST"])
def remove_second_factor(request: Request) -> HttpResponseBase:
    """Ask for the password, then switch the person's own second factor off."""
    form = OwnPasswordForm(request.POST if request.method == "POST" else None)
    if request.method == "POST" and form.is_valid() and _has_own_password(request, form):
        services.remove_second_factor(request.user)
        request.session.pop(PASSED, None)
        messages.success(request, _("You now sign in with just your password."))
        return redirect("account")
    status = 422 if form.is_bound else 200
    return render(request, "access/drop_second_factor.html", {"form": form}, status=status)


@never_cache
@login_not_required
@require_http_methods(["GET", "POST"])
def confirm_email(request: HttpRequest, token: str) -> HttpResponseBase:
    """Show the page that the e-mail to a new address leads to. Opening it changes nothing: the button does."""
    change = email_change_of(token)
    if change is None:
        return render(request, "access/email_over.html", status=410)
    if request.method == "POST":
        if not confirm_email_change(change):
            return render(request, "access/email_over.html", status=410)
        return render(request, "access/email_confirmed.html", {"address": change.address})
    return render(request, "access/confirm_email.html", {"change": change})


@require_GET
@login_not_required
def slip_by_picture(request: HttpRequest, code: str) -> HttpResponseBase:
    """The address in the square picture. Looking at it uses nothing up: the button does."""
    return slip(request, code)
