"""The gradebook of a class: the grid, its columns, one cell."""

from django.contrib import messages
from django.http import Http404, HttpResponseBase, JsonResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.template.defaultfilters import floatformat
from django.utils.translation import gettext as _
from django.views.decorators.http import require_GET, require_http_methods

from ear.judging.means import Mean
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.gradebook import services
from oido.gradebook.book import Book, BookColumn, Row, book_of, columns_of
from oido.gradebook.exports import EXPORTS
from oido.gradebook.forms import CellForm, ColumnForm
from oido.gradebook.layout import grid_of
from oido.gradebook.models import Column, EntryChange
from oido.gradebook.term_report import describe_sum
from oido.marking.models import SheetChange
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen
from oido.people.requests import Request


def class_or_404(request: Request, pk: int) -> SchoolClass:
    return get_object_or_404(classes_seen(request.user), pk=pk)


@require_GET
@for_teachers
def gradebook(request: Request, pk: int) -> HttpResponseBase:
    school_class = class_or_404(request, pk)
    return _page(request, school_class, ColumnForm())


def _page(
    request: Request, school_class: SchoolClass, form: ColumnForm, *, status: int = 200
) -> HttpResponseBase:
    book = book_of(school_class)
    opened = {key for key in map(whole, request.GET.getlist("open")) if key is not None}
    context = {
        "school_class": school_class, "book": book, "grid": grid_of(book, opened=opened), "column_form": form, "exports": EXPORTS,
        "asks_column": form.is_bound,
    }  # fmt: skip
    return render(request, "gradebook/gradebook.html", context, status=status)


@only_post
@for_teachers
def add_column(request: Request, pk: int) -> HttpResponseBase:
    school_class, form = class_or_404(request, pk), ColumnForm(request.POST)
    if not form.is_valid():
        return _page(request, school_class, form, status=422)
    services.add_column(request.user, school_class, **form.cleaned_data)
    return redirect("gradebook", pk=pk)


def _column(school_class: SchoolClass, key: str) -> BookColumn:
    column = next((one for one in columns_of(school_class) if one.key == key), None)
    if column is None:
        raise Http404
    return column


def _stored(request: Request, column: BookColumn) -> Column:
    if column.column is not None:
        return column.column
    assert column.assignment is not None
    return services.column_of(request.user, column.assignment)


@require_http_methods(["GET", "POST"])
@for_teachers
def column(request: Request, pk: int, key: str) -> HttpResponseBase:
    """What a column weighs; of an own one all of it, and (`delete` in the data) away with it."""
    school_class = class_or_404(request, pk)
    about = _column(school_class, key)
    form = ColumnForm(request.POST or None, column=about)
    if request.method == "POST" and "delete" in request.POST and about.assignment is None:
        services.delete_column(request.user, _stored(request, about))
        messages.success(request, _("The column “%(name)s” is deleted.") % {"name": about.title})
        return redirect("gradebook", pk=pk)
    if request.method == "POST" and form.is_valid():
        try:
            services.change_column(request.user, _stored(request, about), **form.cleaned_data)
        except services.NotAMark:
            form.add_error("out_of", _("This column already has higher marks than that."))
        else:
            return redirect("gradebook", pk=pk)
    context = {"school_class": school_class, "column": about, "form": form}
    return render(request, "gradebook/column.html", context, status=422 if form.is_bound else 200)


def _student(school_class: SchoolClass, pk: int) -> User:
    student: User = get_object_or_404(school_class.students.all(), pk=pk)
    return student


@require_http_methods(["GET", "POST"])
@for_teachers
def cell(request: Request, pk: int, key: str, student: int) -> HttpResponseBase:
    """One cell: what stands there, where it comes from, its history. A script that types into the grid gets the row
    back as it is then."""
    school_class = class_or_404(request, pk)
    about, place = _column(school_class, key), _student(school_class, student)
    row = book_of(school_class, student=place).rows[0]
    here = next(c for c in row.cells if c.column.key == key)
    form = CellForm(
        request.POST or None, out_of=here.out_of, initial={"typed": here.typed if here.is_entered else ""}
    )
    is_script = request.headers.get("Accept") == "application/json"
    if request.method == "POST" and form.is_valid():
        services.enter(
            request.user,
            _stored(request, about),
            place,
            form.cleaned_data["typed"],
            why=form.cleaned_data["why"],
        )
        if is_script:
            book = book_of(school_class, student=place)
            return JsonResponse(_row(book, book.rows[0], key))
        return redirect("gradebook", pk=pk)
    if is_script and request.method == "POST":
        return JsonResponse({"errors": form.errors.get_json_data()}, status=422)
    changes = (
        EntryChange.objects.filter(column=about.column, student=place).select_related("by")
        if about.column
        else []
    )
    marks = SheetChange.objects.filter(sheet__take__assignment=about.assignment, sheet__take__student=place)
    context = {
        "school_class": school_class, "column": about, "student": place, "cell": here, "form": form, "changes": changes,
        "marks": marks.select_related("by", "sheet") if about.assignment is not None else [],
        "sum": describe_sum(row.mean),
    }  # fmt: skip
    return render(request, "gradebook/cell.html", context, status=422 if form.is_bound else 200)


def _row(book: Book, row: Row, key: str) -> dict[str, object]:
    here = next(c for c in row.cells if c.column.key == key)
    return {
        "shown": here.typed,
        "state": here.state,
        "isEntered": here.is_entered,
        "means": [_mean(one) for one in row.means],
    }


def _mean(mean: Mean) -> str:
    """As the page prints it."""
    return "" if mean.value is None else floatformat(mean.value, 1)
