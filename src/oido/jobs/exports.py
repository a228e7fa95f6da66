"""What something can be downloaded as. Each room has its own table of these; its page, its addresses and its view read it."""

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any, Generic, TypeVar

from django.http import Http404, HttpResponse, HttpResponseBase
from django.utils.functional import Promise

from oido.jobs.views import asked_for
from oido.people.requests import Request

T = TypeVar("T")


@dataclass(frozen=True, slots=True, kw_only=True)
class Export(Generic[T]):
    """A file made at once by `make`, or in the background by a `job`, told what it needs besides its subject."""

    file: str
    """Its name in the address."""
    name: str | Promise
    content_type: str = ""
    make: Callable[[T], bytes] | None = None
    job: str = ""
    title: str | Promise = ""
    """Of the job, with names that the room has for it."""
    is_for_reader: bool = False
    """Does the job name and spell things as the reader does?"""
    arguments: dict[str, object] = field(default_factory=dict)
    applies_to: Callable[[T], bool] = lambda _subject: True
    """Is there such a file of a subject?"""

    @property
    def ending(self) -> str:
        return self.file.rpartition(".")[2]

    def answer(
        self,
        request: Request,
        subject: T,
        *,
        file_name: str,
        names: Mapping[str, object],
        back: str,
        **key: Any,
    ) -> HttpResponseBase:
        """Answer with the file, or with the page of its job. `key` names what the file is about. Raise Http404 where there is
        no such file of the subject.
        """
        if not self.applies_to(subject):
            raise Http404
        if self.make is None:
            for_reader = {"reader": request.user.pk} if self.is_for_reader else {}
            title = str(self.title) % names
            return asked_for(request, self.job, title=title, back=back, **key, **self.arguments, **for_reader)
        response = HttpResponse(self.make(subject), content_type=self.content_type)
        response["Content-Disposition"] = f'attachment; filename="{file_name}"'
        return response


def by_file(exports: Iterable[Export[T]]) -> dict[str, Export[T]]:
    return {export.file: export for export in exports}


def pattern(exports: Iterable[Export[T]]) -> str:
    """Return the address pattern of one of their files."""
    return "|".join(re.escape(export.file) for export in exports)
