"""A teacher's saved phrases."""

from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_http_methods

from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.feedback import remarks
from oido.feedback.forms import PhraseForm
from oido.marking.models import Phrase
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
@for_teachers
def phrases(request: Request) -> HttpResponseBase:
    """The teacher's saved phrases, to be added to and taken from."""
    drop = request.POST.get("drop", "")
    number = whole(drop)
    if number is not None:
        remarks.delete_phrase(request.user, get_object_or_404(Phrase, pk=number, owner=request.user))
        return redirect("phrases")
    form = PhraseForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        remarks.save_phrase(request.user, form.cleaned_data["text"])
        return redirect("phrases")
    context = {"form": form, "phrases": request.user.phrases.all(), "fields": remarks.PHRASE_FIELDS}
    return render(request, "desk/phrases.html", context, status=422 if request.method == "POST" else 200)
