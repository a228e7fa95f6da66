"""The school's outbox, for its head: what Oido has written to whom, and whether it went out."""

from django.conf import settings
from django.core.paginator import Paginator
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET

from oido.common.methods import only_post
from oido.common.permissions import for_heads
from oido.people.requests import Request
from oido.post.models import Email
from oido.post.services import send_again

PAGE = 25


@require_GET
@for_heads
def outbox(request: Request) -> HttpResponseBase:
    emails = Email.objects.filter(school=request.user.school_id).select_related("person")
    page = Paginator(emails, PAGE).get_page(request.GET.get("page"))
    return render(request, "post/outbox.html", {"page": page, "goes_to_files": settings.MAIL_GOES_TO_FILES})


@only_post
@for_heads
def again(request: Request, pk: int) -> HttpResponseBase:
    send_again(get_object_or_404(Email, pk=pk, school=request.user.school_id))
    return redirect("outbox")
