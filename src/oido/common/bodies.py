"""JSON bodies of requests, parsed once into typed values."""

import re
from collections.abc import Iterator
from typing import TypeVar

import msgspec
from django.http import JsonResponse
from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from ear.formats.characters import has_control_characters

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
    """Return a request body as a value of a msgspec type. Raise BadBody if it cannot be read."""
    try:
        value = msgspec.json.decode(body, type=kind)
    except msgspec.ValidationError as problem:
        text = str(problem)
        match = PLACE.search(text) or MISSING.search(text)
        reason = (
            pgettext("state", "missing") if MISSING.search(text) else text.split(" - at ")[0].replace("`", "")
        )
        raise BadBody({match["field"] if match else "body": [reason]}) from problem
    except (msgspec.DecodeError, RecursionError, ValueError) as problem:
        raise BadBody(
            {"body": [_("Something went wrong while saving. Reload the page and try again.")]}
        ) from problem
    if any(map(has_control_characters, _texts(value))):
        raise BadBody({"body": [_("There is a character in this that cannot be printed.")]})
    return value


def _texts(value: object) -> Iterator[str]:
    """All texts of a decoded value but names of devices, as which drivers send whatever they like: those are cleaned where
    they are stored, so that no take is refused for them. Lists of numbers are not looked through."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            if name != "device":
                yield from _texts(getattr(value, name))
    elif isinstance(value, dict):
        for key, item in value.items():
            yield from _texts(key)
            yield from _texts(item)
    elif isinstance(value, list) and value and not isinstance(value[0], tuple | int | float):
        for item in value:
            yield from _texts(item)
