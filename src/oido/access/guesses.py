"""Codes that are typed by somebody who is not signed in: counted by the lock-out as wrong passwords are."""

from axes.handlers.proxy import AxesProxyHandler
from django.http import HttpRequest


def is_locked(request: HttpRequest, what: str) -> bool:
    """Were too many wrong ones of this sort typed from there? `what` stands in the place of a sign-in name."""
    return bool(AxesProxyHandler.is_locked(request, {"username": what}))


def was_wrong(request: HttpRequest, what: str) -> None:
    AxesProxyHandler.user_login_failed(sender=was_wrong, credentials={"username": what}, request=request)
