"""What a browser shows when it cannot reach Oido: a page that it keeps, and the script that shows it."""

from pathlib import Path

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET

WORKER = Path(__file__).parent / "worklet" / "offline.js"


@require_GET
def offline(request: HttpRequest) -> HttpResponse:
    """Show the page that the browser keeps."""
    context = {
        "heading": _("You are offline"),
        "said": _("Oido can’t be reached. Takes that could not be sent are kept in this browser and sent when you are back online."),
    }  # fmt: skip
    return render(request, "refusals/offline.html", context)


@require_GET
def offline_worker(request: HttpRequest) -> HttpResponse:
    """Answer with the script. Its address has the language, so that another language keeps another page."""
    answer = HttpResponse(WORKER.read_text(), content_type="text/javascript; charset=utf-8")
    answer["Cache-Control"] = "no-cache"
    return answer
