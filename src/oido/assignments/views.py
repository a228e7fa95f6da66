"""Give an exercise, change how it is given, arrange it for one student, remind."""

from django.contrib import messages
from django.db.models import QuerySet
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_http_methods

from oido.assignments import services
from oido.assignments.forms import ArrangeForm, HowForm, ToClassForm, ToWhom, WeeklyForm
from oido.assignments.models import Arrangement, Assignment
from oido.assignments.queries import visible_assignments, visible_booklet_assignments
from oido.booklets.queries import items_of, visible_booklets
from oido.common.days import begin_of, due_on
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_teachers
from oido.common.undo import with_undo
from oido.exercises.models import Exercise
from oido.exercises.queries import library, with_unsaved
from oido.exercises.reached import reached
from oido.people.models import SchoolClass, User
from oido.people.queries import classes_seen
from oido.people.requests import Request


@require_http_methods(["GET", "POST"])
@for_teachers
def give(request: Request, pk: int) -> HttpResponseBase:
    """To classes and students at once. `like` in the query is an assignment whose terms are put in, `class` a class
    that is chosen beforehand. Given already, it asks first."""
    exercise = get_object_or_404(
        with_unsaved(library(request.user)).filter(retired_at=None).select_related("part"), pk=pk
    )
    if not exercise.is_assignable:
        messages.error(
            request, _("An empty page cannot be given yet: write notes on it at the Bench and save them.")
        )
        return redirect("exercise", pk=pk)
    part = exercise.part_in_force.read()
    holders = {c.pk for c in services.classes_that_have(exercise, classes_seen(request.user))}
    like = visible_assignments(request.user).filter(pk=whole(request.GET.get("like", "")) or 0).first()
    start = HowForm.start(like) if like is not None else {}
    start.pop("due_on", None)
    start.pop("opens_on", None)
    data = request.POST or None
    how = HowForm(data, teacher=request.user, kind=exercise.kind, initial=start)
    chosen = whole(request.GET.get("class", ""))
    whom = ToWhom(data, teacher=request.user, holders=holders, chosen=chosen)
    again: list[SchoolClass] = []
    if data is not None and all([how.is_valid(), whom.is_valid(how)]):
        again = [form.school_class for form in whom.chosen if form.has_it]
        if not again or "again" in request.POST:
            return _give(request, exercise, how, whom)
    context = {
        "exercise": exercise,
        "how": how,
        "whom": whom,
        "again": again,
        "part": part,
        "reached": reached(exercise, part),
    }
    return render(request, "assignments/give.html", context, status=200 if data is None else 422)


def _give(request: Request, exercise: Exercise, how: HowForm, whom: ToWhom) -> HttpResponseBase:
    gifts = [_gift(form, how) for form in whom.chosen]
    made = services.give_exercise_to_all(request.user, exercise, gifts, terms=how.terms)
    names = ", ".join(str(one.school_class) for one in made)
    messages.success(request, _("Given to %(name)s.") % {"name": names})
    return redirect("watch", pk=made[0].pk) if len(made) == 1 else redirect("exercise", pk=exercise.pk)


@require_http_methods(["GET", "POST"])
@for_teachers
def give_booklet(request: Request, pk: int) -> HttpResponseBase:
    """A booklet to classes and students at once: whole, or so many exercises a week."""
    booklet = get_object_or_404(visible_booklets(request.user), pk=pk)
    items = items_of(booklet)
    kinds = {item.exercise.kind for item in items}
    data = request.POST or None
    how = HowForm(data, teacher=request.user, kind=kinds.pop() if len(kinds) == 1 else "")
    holders = set(
        visible_booklet_assignments(request.user)
        .filter(booklet=booklet)
        .values_list("school_class", flat=True)
    )
    whom, weekly = ToWhom(data, teacher=request.user, holders=holders), WeeklyForm(data)
    again: list[SchoolClass] = []
    if data is not None and all([how.is_valid(), weekly.is_valid(), whom.is_valid(how)]):
        again = [form.school_class for form in whom.chosen if form.has_it]
        if not services.to_give(booklet):
            how.add_error(None, _("There is nothing in this booklet that can be given."))
        elif not again or "again" in request.POST:
            made = services.give_booklet_to_all(
                request.user, booklet, [_gift(form, how) for form in whom.chosen], terms=how.terms,
                a_week=weekly.cleaned_data["a_week"],
            )  # fmt: skip
            messages.success(
                request, _("Given to %(name)s.") % {"name": ", ".join(str(m.school_class) for m in made)}
            )
            return redirect("given-booklet", pk=made[0].pk)
    context = {"booklet": booklet, "items": items, "how": how, "whom": whom, "weekly": weekly, "again": again}
    return render(request, "assignments/give_booklet.html", context, status=200 if data is None else 422)


def _gift(form: ToClassForm, how: HowForm) -> services.Gift:
    opens_at, due_at = form.dates(how.cleaned_data)
    students = list(form.cleaned_data["students"]) or None
    return services.Gift(school_class=form.school_class, due_at=due_at, opens_at=opens_at, students=students)


def _get_assignment(request: Request, pk: int) -> Assignment:
    return get_object_or_404(visible_assignments(request.user).select_related("rubric__rubric"), pk=pk)


@require_http_methods(["GET", "POST"])
@for_teachers
def assignment_terms(request: Request, pk: int) -> HttpResponseBase:
    """Dates and terms, to be changed."""
    assignment = _get_assignment(request, pk)
    form = HowForm(
        request.POST or None,
        teacher=request.user,
        kind=assignment.exercise.kind,
        assignment=assignment,
        initial=HowForm.start(assignment),
    )
    if request.method == "POST" and form.is_valid():
        c = form.cleaned_data
        services.change_assignment(
            request.user, assignment, due_at=due_on(c["due_on"]), terms=form.terms,
            opens_at=begin_of(c["opens_on"]) if c["opens_on"] else None,
        )  # fmt: skip
        messages.success(request, _("Saved."))
        return redirect("watch", pk=pk)
    status = 422 if request.method == "POST" else 200
    return render(request, "assignments/how.html", {"assignment": assignment, "form": form}, status=status)


@only_post
@for_teachers
def withdraw(request: Request, pk: int, way: str) -> HttpResponseBase:
    """Take it from the students, or give it back to them."""
    assignment, is_withdrawn = _get_assignment(request, pk), way == "withdraw"
    services.withdraw(request.user, assignment, is_withdrawn=is_withdrawn)
    if is_withdrawn:
        message = _("Withdrawn: students no longer see it. What they recorded stays.")
        with_undo(request, message, reverse("withdraw", args=[pk, "restore"]))
    else:
        messages.success(request, _("Students see it again."))
    return redirect("watch", pk=pk)


@only_post
@for_teachers
def close(request: Request, pk: int, way: str) -> HttpResponseBase:
    assignment, is_closed = _get_assignment(request, pk), way == "close"
    services.close(request.user, assignment, is_closed=is_closed)
    if is_closed:
        with_undo(request, _("Closed: nothing more is handed in."), reverse("close", args=[pk, "open"]))
    else:
        messages.success(request, _("Reopened: students can hand in."))
    return redirect("watch", pk=pk)


@require_http_methods(["GET", "POST"])
@for_teachers
def arrange(request: Request, pk: int, student: int) -> HttpResponseBase:
    """What holds for one student of it alone."""
    assignment = _get_assignment(request, pk)
    person = get_object_or_404(_students(assignment), pk=student)
    row = Arrangement.objects.filter(assignment=assignment, student=person).select_related("version").first()
    form = ArrangeForm(request.POST or None, teacher=request.user, assignment=assignment, row=row)
    if request.method == "POST" and form.is_valid():
        services.arrange(request.user, assignment, person, form.arranged())
        messages.success(request, _("Saved for %(name)s.") % {"name": person.name})
        return redirect("watch", pk=pk)
    context = {"assignment": assignment, "student": person, "form": form}
    return render(
        request, "assignments/arrange.html", context, status=422 if request.method == "POST" else 200
    )


def _students(assignment: Assignment) -> QuerySet[User]:
    students: QuerySet[User] = assignment.school_class.students.all()
    return students.order_by("last_name", "first_name", "pk")


@only_post
@for_teachers
def remind(request: Request, pk: int) -> HttpResponseBase:
    """The students named, or all who have not handed in."""
    assignment = _get_assignment(request, pk)
    keys = [n for n in map(whole, request.POST.getlist("student")) if n is not None]
    missing = _students(assignment).exclude(takes__assignment=assignment, takes__handed_in_at__isnull=False)
    wanted = missing.filter(pk__in=keys) if keys else missing
    reminded = services.remind(request.user, assignment, wanted.distinct())
    if reminded:
        # xgettext:no-python-format
        message = ngettext("%(name)s has been reminded.", "%(n)s students have been reminded.", len(reminded))
        messages.success(request, message % {"n": len(reminded), "name": reminded[0].name})
    else:
        messages.info(
            request,
            _("Nobody was reminded: everyone has handed in, is excused or was reminded within the last day."),
        )
    return redirect("watch", pk=pk)
