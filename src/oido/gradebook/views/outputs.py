"""What leaves a gradebook: files, and reports on paper with the teacher's texts."""

from typing import Any

from django.contrib import messages
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.text import slugify
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.gradebook.book import book_of, mean_in
from oido.gradebook.exports import BY_FILE
from oido.gradebook.forms import TextForm
from oido.gradebook.models import ReportText
from oido.gradebook.services import write_text
from oido.gradebook.term_report import describe_sum
from oido.gradebook.views.book import class_or_404
from oido.jobs.views import asked_for
from oido.leaving.models import Term
from oido.people.requests import Request


@require_GET
@for_teachers
def export(request: Request, pk: int, file: str) -> HttpResponseBase:
    school_class, wanted = class_or_404(request, pk), BY_FILE[file]
    stem = slugify(school_class.name) or f"class-{pk}"
    return wanted.answer(
        request, school_class, file_name=f"{stem}-{wanted.file}", names={"name": school_class.name},
        back=reverse("gradebook", args=[pk]), school_class=pk,
    )  # fmt: skip


def _term(request: Request) -> Term | None:
    key = whole(request.GET.get("term", ""))
    return Term.objects.filter(pk=key).first() if key else None


@require_http_methods(["GET", "POST"])
@for_teachers
def reports(request: Request, pk: int) -> HttpResponseBase:
    """The reports of a term: each student's mean with its sum, the text to be written, the paper."""
    school_class, term = class_or_404(request, pk), _term(request)
    where = reverse("term-reports", args=[pk]) + (f"?term={term.pk}" if term else "")
    if request.method == "POST":
        form = TextForm(request.POST)
        students: Any = school_class.students
        student = get_object_or_404(students, pk=whole(request.POST.get("student", "")) or 0)
        if form.is_valid():
            write_text(request.user, school_class, term, student, form.cleaned_data["text"])
            messages.success(request, _("Saved for %(name)s.") % {"name": student.name})
            return redirect(f"{where}#student-{student.pk}")
        messages.error(request, _("The text is too long."))
    texts = dict(
        ReportText.objects.filter(school_class=school_class, term=term).values_list("student", "text")
    )
    rows = [
        (row.student, mean_in(row.cells, term), texts.get(row.student.pk, ""))
        for row in book_of(school_class).rows
    ]
    context = {
        "school_class": school_class, "term": term, "terms": Term.objects.order_by("begins_on"),
        "rows": [(student, mean, describe_sum(mean), text) for student, mean, text in rows],
    }  # fmt: skip
    return render(request, "gradebook/reports.html", context, status=422 if request.method == "POST" else 200)


@require_GET
@for_teachers
def report(request: Request, pk: int, student: int) -> HttpResponseBase:
    """One student's report on paper."""
    school_class, term = class_or_404(request, pk), _term(request)
    students: Any = school_class.students
    member = get_object_or_404(students, pk=student)
    return asked_for(
        request, "gradebook.report", title=_("Report of %(name)s") % {"name": member.name},
        back=reverse("term-reports", args=[pk]), school_class=pk, student=student, term=term.pk if term else 0,
        reader=request.user.pk,
    )  # fmt: skip
