"""Sign in through the school's own service, by OpenID Connect."""

import logging
from functools import cache
from typing import Any

import requests
from authlib.common.errors import AuthlibBaseError
from authlib.integrations.django_client import OAuth
from django.conf import settings
from django.contrib.auth import login
from django.contrib.auth.decorators import login_not_required
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.http import url_has_allowed_host_and_scheme
from django.utils.translation import gettext_lazy as _
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET
from joserfc.errors import JoseError

from oido.access.two_step import pass_two_step
from oido.access.views import BACKEND
from oido.common.methods import can_be_looked_at
from oido.config.env import SignInService
from oido.roster.single_sign_on import Refusal, SignInRefused, find_or_add_person

WANTED = "wanted_page"
"""In the session: the page that was asked for before signing in."""
ANSWER_S = 10.0
NOT_ANSWERED = _("The sign-in service did not respond properly. Try again in a moment.")
REASONS = {
    Refusal.NO_SCHOOL: _("Oido does not know which school this account belongs to."),
    Refusal.NO_SUBJECT: _("The sign-in service did not say who you are."),
    Refusal.NO_ROLE: _("Your school account does not say whether you are a head, a teacher or a student."),
    Refusal.HAS_LEFT: _("You are no longer a member of this school in Oido."),
    Refusal.NO_ROOM: _("Your school has reached its limit of people in Oido. Please ask the head."),
    Refusal.IS_INACTIVE: _("Your Oido account has been closed."),
}
logger = logging.getLogger(__name__)


@cache
def _client_of(service: SignInService) -> Any:
    """Return Authlib's client. It checks state, nonce, signature, issuer, audience and times."""
    return OAuth().register(
        "school", client_id=service.client_id, client_secret=service.client_secret,
        server_metadata_url=f"{service.issuer}/.well-known/openid-configuration",
        client_kwargs={"scope": "openid email profile", "code_challenge_method": "S256", "default_timeout": ANSWER_S},
    )  # fmt: skip


def _service() -> SignInService:
    service: SignInService | None = settings.SIGN_IN_SERVICE
    if service is None:
        raise Http404
    return service


@never_cache
@login_not_required
@require_GET
def begin(request: HttpRequest) -> HttpResponseBase:
    """Send the browser to the school's service."""
    wanted = request.GET.get("next", "")
    is_ours = url_has_allowed_host_and_scheme(wanted, {request.get_host()}) and can_be_looked_at(wanted)
    request.session[WANTED] = wanted if is_ours else ""
    back = settings.OWN_ADDRESS + reverse("single-sign-on-back")
    try:
        answer: HttpResponseBase = _client_of(_service()).authorize_redirect(request, back)
    except (requests.RequestException, AuthlibBaseError, ValueError) as problem:
        return _refuse(request, str(NOT_ANSWERED), problem)
    return answer


@never_cache
@login_not_required
@require_GET
def come_back(request: HttpRequest) -> HttpResponseBase:
    """Let in the person for whom the service vouches."""
    service = _service()
    try:
        token = _client_of(service).authorize_access_token(request)
        claims = token["userinfo"]
    except (requests.RequestException, AuthlibBaseError, JoseError, KeyError, ValueError) as problem:
        return _refuse(request, str(NOT_ANSWERED), problem)
    try:
        person = find_or_add_person(service, claims)
    except SignInRefused as problem:
        return _refuse(request, str(REASONS[problem.reason]), problem)
    wanted = request.session.pop(WANTED, "")
    login(request, person, backend=BACKEND)
    # How many steps signing in has is up to the service.
    pass_two_step(request)
    return redirect(wanted or "home")


def _refuse(request: HttpRequest, sentence: str, problem: Exception) -> HttpResponse:
    # The service's own words may name the person.
    logger.warning("single sign-on refused: %s", getattr(problem, "reason", type(problem).__name__))
    return render(request, "roster/sign_in_refused.html", {"sentence": sentence}, status=403)
