"""The classes, and one of them."""

from typing import Any

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import Count, IntegerField, OuterRef, QuerySet, Subquery
from django.db.models.expressions import Combinable
from django.db.models.functions import Coalesce
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy, ngettext
from django.views.decorators.http import require_GET, require_http_methods

from oido.assignments.models import Assignment
from oido.assignments.services import give_again
from oido.classes.forms import GiveLikeForm
from oido.classes.overview import overview_of
from oido.common.days import due_on
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.people.models import STAFF, Attendance, Membership, SchoolClass
from oido.people.queries import classes_of, classes_seen
from oido.people.requests import Request
from oido.roster import classes as services
from oido.roster import joining
from oido.roster.forms import ClassForm, CodeEndsForm, ForwardForm
from oido.roster.models import JoinCode
from oido.roster.people import NameTaken, join_class

TAKEN = gettext_lazy("There is a class of this name already. Choose another.")
ON_A_PAGE = 60
"""Students."""
BEHIND_SHOWN = 20


@require_http_methods(["GET", "POST"])
@for_teachers
def classes(request: Request) -> HttpResponseBase:
    """One's own classes; a head's own ahead of the others; the archive on request."""
    form = ClassForm(request.POST or None)
    if request.method == "POST" and form.is_valid():
        try:
            made = services.make_class(request.user, form.cleaned_data["name"])
        except NameTaken:
            form.add_error("name", TAKEN)
        else:
            return redirect("class", pk=made.pk)
    is_archive = request.GET.get("show") == "archive"
    shown = classes_seen(request.user).filter(archived_at__isnull=not is_archive)
    shown = shown.annotate(
        size=_counted(Attendance.objects.filter(schoolclass=OuterRef("pk")), "schoolclass"),
        given=_counted(Assignment.objects.filter(school_class=OuterRef("pk")), "school_class"),
    ).prefetch_related("teachers")
    own = set(classes_of(request.user).values_list("pk", flat=True))
    rows = list(shown)
    context = {
        "form": form,
        "own": [row for row in rows if row.pk in own],
        "others": [row for row in rows if row.pk not in own],
        "is_archive": is_archive,
        "archived": classes_seen(request.user).filter(archived_at__isnull=False).count(),
    }
    return render(request, "classes/classes.html", context, status=422 if form.is_bound else 200)


def _counted(rows: QuerySet[Any], of_class: str) -> Combinable:
    """Count rows of each class by themselves: joined, students would be multiplied by assignments."""
    counts = rows.order_by().values(of_class).annotate(n=Count("pk")).values("n")
    return Coalesce(Subquery(counts, output_field=IntegerField()), 0)


@require_GET
@for_teachers
def school_class(request: Request, pk: int) -> HttpResponseBase:
    return _page(request, _class(request, pk))


def _class(request: Request, pk: int) -> SchoolClass:
    return get_object_or_404(classes_seen(request.user), pk=pk)


def _page(
    request: Request,
    school_class: SchoolClass,
    *,
    name_form: ClassForm | None = None,
    forward_form: ForwardForm | None = None,
    code_form: CodeEndsForm | None = None,
    like_form: GiveLikeForm | None = None,
    still_open: services.OpenWork | None = None,
    status: int = 200,
) -> HttpResponseBase:
    teachers = list(school_class.teachers.all())
    overview = overview_of(school_class)
    like_form = like_form or GiveLikeForm(teacher=request.user, school_class=school_class)
    colleagues = Membership.objects.filter(role__in=STAFF, left_at=None).exclude(person__in=teachers)
    context = {
        "school_class": school_class,
        "overview": overview,
        "page": Paginator(overview.pupils, ON_A_PAGE).get_page(request.GET.get("page")),
        "behind": overview.behind[:BEHIND_SHOWN],
        "behind_more": max(0, len(overview.behind) - BEHIND_SHOWN),
        "teachers": teachers,
        "colleagues": colleagues.select_related("person").order_by("person__last_name", "pk"),
        "others": [other for other in like_form.others if other.archived_at is None],
        "code": JoinCode.objects.filter(school_class=school_class).prefetch_related("joined__person").first(),
        "name_form": name_form or ClassForm(initial={"name": school_class.name}),
        "forward_form": forward_form or ForwardForm(),
        "code_form": code_form or CodeEndsForm(),
        "like_form": like_form,
        "still_open": still_open,
        "join_address": request.build_absolute_uri("/join/"),
    }
    return render(request, "classes/class.html", context, status=status)


@only_post
@for_teachers
def rename(request: Request, pk: int) -> HttpResponseBase:
    school_class, form = _class(request, pk), ClassForm(request.POST)
    if form.is_valid():
        try:
            services.rename_class(request.user, school_class, form.cleaned_data["name"])
        except NameTaken:
            form.add_error("name", TAKEN)
    if form.errors:
        return _page(request, school_class, name_form=form, status=422)
    messages.success(request, _("Saved."))
    return redirect("class", pk=pk)


@only_post
@for_teachers
def forward(request: Request, pk: int) -> HttpResponseBase:
    """The same people, given nothing yet."""
    school_class, form = _class(request, pk), ForwardForm(request.POST)
    if form.is_valid():
        try:
            made = services.bring_forward(
                request.user, school_class, form.cleaned_data["next_name"], even_so="even_so" in request.POST
            )
        except services.StillOpen as problem:
            return _page(request, school_class, forward_form=form, still_open=problem.work, status=422)
        except NameTaken:
            form.add_error("next_name", TAKEN)
        else:
            message = _("%(new)s has the same people and no exercises yet. %(before)s is in the archive.")
            messages.success(request, message % {"new": made, "before": school_class})
            return redirect("class", pk=made.pk)
    return _page(request, school_class, forward_form=form, status=422)


@only_post
@for_teachers
def give_like(request: Request, pk: int) -> HttpResponseBase:
    """All that another class was given, with the days moved so that the first falls on the one named."""
    school_class = _class(request, pk)
    form = GiveLikeForm(request.POST, teacher=request.user, school_class=school_class)
    if not form.is_valid():
        return _page(request, school_class, like_form=form, status=422)
    before, first = form.cleaned_data["before"], due_on(form.cleaned_data["first_due_on"])
    made = give_again(request.user, before, school_class, first_due_at=first)
    message = ngettext("One exercise is given.", "%(n)s exercises are given.", len(made)) % {"n": len(made)}
    messages.success(
        request,
        message
        if made
        else _("There is nothing left to give: this class already has everything %(name)s had.")
        % {"name": before},
    )
    return redirect("class", pk=pk)


@only_post
@for_teachers
def add_teacher(request: Request, pk: int) -> HttpResponseBase:
    """A colleague of the school teaches it, too."""
    school_class = _class(request, pk)
    member = get_object_or_404(
        Membership.objects.select_related("person"),
        role__in=STAFF,
        person_id=whole(request.POST.get("person", "")) or 0,
    )
    join_class(request.user, member.person, school_class)
    return redirect("class", pk=pk)


@only_post
@for_teachers
def archive(request: Request, pk: int) -> HttpResponseBase:
    school_class = _class(request, pk)
    try:
        services.put_away(
            request.user,
            school_class,
            is_away=school_class.archived_at is None,
            even_so="even_so" in request.POST,
        )
    except services.StillOpen as problem:
        return _page(request, school_class, still_open=problem.work, status=422)
    return redirect("class", pk=pk)


@only_post
@for_teachers
def move(request: Request, pk: int, way: str) -> HttpResponseBase:
    services.move_in_order(request.user, _class(request, pk), by=-1 if way == "up" else 1)
    return redirect("classes")


@only_post
@for_teachers
def open_code(request: Request, pk: int) -> HttpResponseBase:
    school_class, form = _class(request, pk), CodeEndsForm(request.POST)
    if not form.is_valid():
        return _page(request, school_class, code_form=form, status=422)
    ends = due_on(form.cleaned_data["ends_on"])
    joining.open_code(request.user, school_class, ends_at=ends)
    return redirect("class", pk=pk)


@only_post
@for_teachers
def close_code(request: Request, pk: int) -> HttpResponseBase:
    joining.close_code(request.user, _class(request, pk))
    return redirect("class", pk=pk)
