"""Going: one person's archive, erasing, terms and how long takes are kept."""

from django.contrib import messages
from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.audit.services import remember
from oido.common.methods import only_post
from oido.common.permissions import for_heads
from oido.jobs.views import asked_for
from oido.leaving import retention
from oido.leaving.erasing import OfOtherSchools, erase
from oido.leaving.forms import EraseForm, RetentionForm, TermForm
from oido.leaving.models import Erasure, Term
from oido.leaving.retention import due
from oido.people.models import Membership, School, User
from oido.people.requests import Request
from oido.roster.people import LastHead


def _member(pk: int) -> Membership:
    return get_object_or_404(
        Membership.objects.select_related("person").filter(person__erased_as=""), person_id=pk
    )


@only_post
@for_heads
def export(request: Request, pk: int) -> HttpResponseBase:
    """Everything about one person."""
    person = _member(pk).person
    remember("person_exported", actor=request.user, person=person)
    return _asked(request, person, back=reverse("person", args=[pk]))


@only_post
def export_own(request: Request) -> HttpResponseBase:
    """Everything about oneself, as far as one may see it."""
    remember("person_exported", actor=request.user, person=request.user)
    return _asked(request, request.user, back=reverse("account"))


def _asked(request: Request, person: User, *, back: str) -> HttpResponseBase:
    title = _("Everything about %(name)s") % {"name": person.name}
    return asked_for(
        request, "leaving.export", title=title, back=back, person=person.pk, reader=request.user.pk
    )


@require_http_methods(["GET", "POST"])
@for_heads
def erase_person(request: Request, pk: int) -> HttpResponseBase:
    """For good: said before, confirmed by name, with a receipt afterwards."""
    person = _member(pk).person
    if person.pk == request.user.pk:
        raise Http404
    form = EraseForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        if form.cleaned_data["sure"].strip().lower() != person.username.lower():
            form.add_error("sure", _("This is not their sign-in name."))
        else:
            try:
                made = erase(request.user, person)
            except OfOtherSchools:
                form.add_error(
                    None,
                    _("They also belong to another school, so here you can only remove them from this one."),
                )
            except LastHead:
                form.add_error(None, _("A school needs a head. Make someone else head first."))
            else:
                return redirect("erasure", receipt=made.receipt)
    return render(
        request, "leaving/erase.html", {"form": form, "person": person}, status=422 if form.is_bound else 200
    )


@require_GET
@for_heads
def erasure(request: Request, receipt: str) -> HttpResponseBase:
    receipt_row = get_object_or_404(Erasure.objects.select_related("by"), receipt=receipt)
    return render(request, "leaving/receipt.html", {"erasure": receipt_row, "school": request.user.school})


@require_http_methods(["GET", "POST"])
@for_heads
def terms(request: Request) -> HttpResponseBase:
    """The terms, how long takes are kept, and what goes when."""
    school = request.user.school
    assert school is not None
    is_retention = "keep_months" in request.POST
    form = TermForm(None if is_retention else request.POST or None, instance=Term(school=school))
    # Of a row of its own: what is typed wrong must not stand anywhere else on the page.
    retention_form = RetentionForm(
        request.POST if is_retention else None, instance=School.objects.get(pk=school.pk)
    )
    for each_form in (form, retention_form):
        if each_form.is_bound and each_form.is_valid():
            retention.change_terms(request.user, each_form)
            messages.success(request, _("Saved."))
            return redirect("terms")
    context = {
        "form": form,
        "retention_form": retention_form,
        "terms": Term.objects.all(),
        "due": due(school, today=timezone.localdate()),
        "erasures": Erasure.objects.all()[:20],
    }
    return render(request, "leaving/terms.html", context, status=422 if request.method == "POST" else 200)


@only_post
@for_heads
def delete_term(request: Request, pk: int) -> HttpResponseBase:
    """The term alone: takes of it stay."""
    retention.delete_term(request.user, get_object_or_404(Term, pk=pk))
    return redirect("terms")
