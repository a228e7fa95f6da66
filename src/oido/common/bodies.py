"""JSON bodies of requests, parsed once into typed values."""

import re
from typing import TypeVar

import msgspec
from django.http import JsonResponse
from django.utils.translation import gettext as _

from oido.common.text import ESCAPED_IN_JSON

T = TypeVar("T")
PLACE = re.compile(r"`\$\.?(?P<field>\w+)")
MISSING = re.compile(r"missing required field `(?P<field>\w+)`")


class BadBody(Exception):
    """What was sent is not what was asked for: reasons by the field that they concern."""

    def __init__(self, errors: dict[str, list[str]]) -> None:
        super().__init__(str(errors))
        self.errors = errors

    def answer(self) -> JsonResponse:
        return JsonResponse({"errors": self.errors}, status=422)


def parsed(body: bytes, kind: type[T]) -> T:
    """A body as a value of a msgspec type. Raises BadBody, whatever was sent."""
    if ESCAPED_IN_JSON.search(body):
        raise BadBody({"body": [_("There is a character in this that cannot be printed.")]})
    try:
        return msgspec.json.decode(body, type=kind)
    except msgspec.ValidationError as problem:
        text = str(problem)
        found = PLACE.search(text) or MISSING.search(text)
        reason = _("missing") if MISSING.search(text) else text.split(" - at ")[0].replace("`", "")
        raise BadBody({found["field"] if found else "body": [reason]}) from problem
    except (msgspec.DecodeError, RecursionError, ValueError) as problem:
        raise BadBody({"body": [_("This is not the expected JSON.")]}) from problem
