"""The trail, for heads: read, narrowed, downloaded."""

import csv
from collections.abc import Iterator
from typing import Any

from django import forms
from django.db.models import QuerySet
from django.http import HttpResponseBase, StreamingHttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, pgettext, pgettext_lazy
from django.views.decorators.http import require_GET

from oido.audit.acts import ACTS
from oido.audit.models import Act
from oido.common.cells import BOM, plain_cell
from oido.common.days import begin_of, end_of
from oido.common.fields import DateInWords, offer
from oido.common.forms import FormData
from oido.common.numbers import whole
from oido.common.permissions import for_heads
from oido.people.queries import name_contains
from oido.people.requests import Request

PAGE = 50


class NarrowForm(forms.Form):
    who = forms.CharField(label=gettext_lazy("Person"), required=False, max_length=80)
    code = forms.ChoiceField(label=pgettext_lazy("label", "What"), required=False)
    since = forms.DateField(
        label=gettext_lazy("From"),
        required=False,
        widget=DateInWords(),
    )
    until = forms.DateField(
        label=gettext_lazy("To"),
        required=False,
        widget=DateInWords(),
    )

    def __init__(self, data: FormData = None, **more: Any) -> None:
        super().__init__(data, **more)
        codes = [(code, str(text) % _Dots()) for code, text in ACTS.items()]
        offer(self, "code", [("", _("anything")), *sorted(codes, key=lambda pair: pair[1])])


class _Dots(dict[str, str]):
    """Whatever a sentence names is three dots."""

    def __missing__(self, key: str) -> str:
        return "…"


def narrowed(form: NarrowForm) -> QuerySet[Act]:
    acts = Act.objects.select_related("actor", "person", "school_class")
    if not form.is_valid():
        return acts
    fields = form.cleaned_data
    if fields["code"]:
        acts = acts.filter(code=fields["code"])
    if fields["since"]:
        acts = acts.filter(at__gte=begin_of(fields["since"]))
    if fields["until"]:
        acts = acts.filter(at__lte=end_of(fields["until"]))
    for word in fields["who"].split():
        people = name_contains(word)
        acts = acts.filter(actor__in=people) | acts.filter(person__in=people)
    return acts


@require_GET
@for_heads
def trail(request: Request) -> HttpResponseBase:
    form = NarrowForm(request.GET or None)
    acts = narrowed(form)
    before = whole(request.GET.get("before", ""))
    last = Act.objects.filter(pk=before).first() if before is not None else None
    if last is not None:
        acts = acts.filter(at__lte=last.at).exclude(at=last.at, pk__gte=last.pk)
    # No count of them all: there may be hundreds of thousands.
    shown = list(acts[: PAGE + 1])
    query = request.GET.copy()
    query.pop("before", None)
    context = {
        "form": form, "acts": shown[:PAGE], "query": query.urlencode(), "is_first": last is None,
        "before": shown[PAGE - 1].pk if len(shown) > PAGE else None,
    }  # fmt: skip
    return render(request, "audit/trail.html", context)


@require_GET
@for_heads
def trail_csv(request: Request) -> HttpResponseBase:
    """The lines that are shown, all pages of them."""
    acts = list(narrowed(NarrowForm(request.GET or None)))
    response = StreamingHttpResponse(_rows(acts), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="trail.csv"'
    return response


class _Echo:
    def write(self, text: str) -> str:
        return text


def _rows(acts: list[Act]) -> Iterator[str]:
    writer = csv.writer(_Echo())
    yield BOM + writer.writerow([_("when"), _("who"), pgettext("choice", "what"), _("address")])
    for act in acts:
        when = timezone.localtime(act.at).isoformat(sep=" ", timespec="seconds")
        yield writer.writerow([plain_cell(cell) for cell in (when, act.who, act.text, act.address or "")])
