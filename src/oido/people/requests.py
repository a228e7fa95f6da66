"""Requests as views of Oido get them."""

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from oido.people.models import User


class Request(HttpRequest):
    """Of somebody who is signed in: whoever is not, no view sees. For types alone; nobody makes one."""

    user: User
    htmx: HtmxDetails
