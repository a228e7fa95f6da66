"""What every page needs: the way around."""

from django.http import HttpRequest
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from oido.common.words import words_address


def scripts(request: HttpRequest) -> dict[str, object]:
    return {"words_address": words_address()}


def navigation(request: HttpRequest) -> dict[str, object]:
    user = getattr(request, "user", None)
    if user is None or not user.is_authenticated or user.membership is None:
        return {"navigation": []}
    links = [(pgettext("choice", "Today"), reverse("home"))]
    if user.is_teacher:
        links += [
            (_("Exercises"), reverse("exercises")),
            (_("Classes"), reverse("classes")),
            (pgettext("choice", "Marking"), reverse("marking")),
        ]
        if user.is_head:
            links.append((_("School"), reverse("school")))
    else:
        links.append((pgettext("choice", "Progress"), reverse("progress")))
    here = request.path
    return {
        "navigation": [
            {"name": name, "url": url, "is_here": here == url or (url != "/" and here.startswith(url))}
            for name, url in links
        ]
    }
