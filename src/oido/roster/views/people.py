"""The school, its people, one of them."""

from collections.abc import Callable

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import Q
from django.http import HttpResponseBase
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils.translation import gettext as _
from django.utils.translation import ngettext
from django.views.decorators.http import require_GET, require_http_methods

from oido.access import services as access
from oido.access.emails import pending_address
from oido.common.methods import only_post
from oido.common.numbers import whole
from oido.common.permissions import for_heads, for_teachers
from oido.jobs.views import asked_for
from oido.people.authority import Change, may_change, may_issue_slip
from oido.people.forms import SchoolForm
from oido.people.models import Membership, Role, SchoolClass, User
from oido.people.queries import classes_seen
from oido.people.quotas import NoRoom, people_quota, takes_quota
from oido.people.requests import Request
from oido.roster import people as roster
from oido.roster.attention import matters_of
from oido.roster.forms import TAKEN, AddPersonForm, ChangePersonForm, InviteForm, RoleForm
from oido.roster.importing import lists_in_reach
from oido.roster.joining import invite, withdraw
from oido.roster.models import Invitation
from oido.roster.people import LastHead, NameTaken, members
from oido.roster.slips import MAX_SLIPS

PAGE = 50
COUNTED: dict[Role, Callable[[int], str]] = {
    Role.HEAD: lambda n: ngettext("%(n)s head", "%(n)s heads", n) % {"n": n},
    Role.TEACHER: lambda n: ngettext("%(n)s teacher", "%(n)s teachers", n) % {"n": n},
    Role.STUDENT: lambda n: ngettext("%(n)s student", "%(n)s students", n) % {"n": n},
}
"""Who is in a school, in words."""
SHOWN_LISTS = 8


@require_http_methods(["GET", "POST"])
@for_heads
def school(request: Request) -> HttpResponseBase:
    """Name and clock of the school, and the ways to all else that concerns it."""
    assert request.user.school is not None
    form = SchoolForm(request.POST or None, instance=request.user.school)
    if request.method == "POST" and form.is_valid():
        roster.change_school(request.user, form)
        messages.success(request, _("Saved."))
        return redirect("school")
    present = Membership.objects.filter(left_at=None)
    counts = [describe(present.filter(role=role).count()) for role, describe in COUNTED.items()]
    context = {
        "form": form,
        "counts": counts,
        "matters": matters_of(request.user.school),
        "people_quota": people_quota(request.user.school),
        "takes_quota": takes_quota(request.user.school),
    }
    return render(request, "roster/school.html", context, status=422 if form.is_bound else 200)


@require_GET
@for_teachers
def people(request: Request) -> HttpResponseBase:
    """Everybody of the school for a head; for a teacher, the students of the own classes."""
    assert request.user.school is not None
    shown = members(request.user.school)
    if not request.user.is_head:
        shown = shown.filter(
            role=Role.STUDENT, person__classes_attended__in=classes_seen(request.user)
        ).distinct()
    asked = request.GET.get("show", "")
    if asked == "left" and request.user.is_head:
        shown = (
            Membership.objects.filter(left_at__isnull=False, person__erased_as="")
            .select_related("person")
            .order_by("person__last_name", "pk")
        )
    elif asked == "never":
        shown = shown.filter(person__last_login=None)
    elif asked in set(Role):
        shown = shown.filter(role=asked)
    for word in request.GET.get("q", "").split()[:5]:
        shown = shown.filter(
            Q(person__first_name__icontains=word) | Q(person__last_name__icontains=word)
            | Q(person__username__icontains=word)
        )  # fmt: skip
    page = Paginator(
        shown.prefetch_related("person__classes_attended", "person__classes_taught"), PAGE
    ).get_page(request.GET.get("page"))
    query = request.GET.copy()
    query.pop("page", None)
    context = {
        "page": page,
        "query": query.urlencode(),
        "asked": asked,
        "roles": Role.choices,
        "words": request.GET.get("q", ""),
        "imports": lists_in_reach(request.user).select_related("made_by")[:SHOWN_LISTS],
        "invitations": [one for one in Invitation.objects.filter(made_by=request.user)[:20] if one.is_open],
    }
    return render(request, "roster/people.html", context)


@require_http_methods(["GET", "POST"])
@for_teachers
def add(request: Request) -> HttpResponseBase:
    """By hand, or by e-mail."""
    chosen = whole(request.GET.get("class", ""))
    first = {
        "school_class": chosen,
        "role": Role.STUDENT.value,
        "invited_class": chosen,
        "invited_role": Role.STUDENT.value,
    }
    is_invitation = "invited_email" in request.POST
    form = AddPersonForm(None if is_invitation else request.POST or None, by=request.user, initial=first)
    invite_form = InviteForm(request.POST if is_invitation else None, by=request.user, initial=first)
    if is_invitation and invite_form.is_valid():
        message = invite_form.cleaned_data
        invite(
            request.user,
            email=message["invited_email"],
            role=message["invited_role"],
            school_class=message["invited_class"],
        )
        messages.success(
            request, _("An invitation is on its way to %(email)s.") % {"email": message["invited_email"]}
        )
        return redirect("people")
    if form.is_bound and form.is_valid():
        try:
            made = roster.add_person(request.user, **form.cleaned_data)
        except NameTaken:
            form.add_error("username", TAKEN)
        except NoRoom as problem:
            form.add_error(None, problem.sentence)
        else:
            messages.success(
                request, _("%(name)s is added, with the sign-in name %(username)s. Print a slip to let them in.")
                % {"name": made.name, "username": made.username},
            )  # fmt: skip
            return redirect("person", pk=made.pk)
    wrong = form.is_bound or invite_form.is_bound
    return render(
        request, "roster/add.html", {"form": form, "invite_form": invite_form}, status=422 if wrong else 200
    )


def _person(request: Request, pk: int) -> Membership:
    """A member of this school, now or once, whom this teacher may look after."""
    rows = Membership.objects.select_related("person", "school").filter(person__erased_as="")
    if not request.user.is_head:
        rows = rows.filter(
            role=Role.STUDENT, person__classes_attended__in=classes_seen(request.user)
        ).distinct()
    return get_object_or_404(rows, person_id=pk)


@require_http_methods(["GET", "POST"])
@for_teachers
def person(request: Request, pk: int) -> HttpResponseBase:
    """Somebody's names, classes, ways in."""
    member = _person(request, pk)
    shown_person = member.person
    first = {
        "first": shown_person.first_name,
        "last": shown_person.last_name,
        "username": shown_person.username,
        # As it will be: saved again, nothing that waits is withdrawn.
        "email": pending_address(shown_person) or shown_person.email,
    }
    is_own = shown_person.pk == request.user.pk
    form = ChangePersonForm(request.POST or None, initial=first, is_own=is_own)
    if request.method == "POST" and form.is_valid():
        try:
            roster.change_details(request.user, shown_person, **form.cleaned_data)
        except NameTaken:
            form.add_error("username", TAKEN)
        else:
            waiting = pending_address(shown_person)
            message = (
                _("Saved. The new address %(email)s will be used once it is confirmed.")
                if waiting
                else _("Saved.")
            )
            messages.success(request, message % {"email": waiting})
            return redirect("person", pk=pk)
    inside = Q(students=shown_person) | Q(teachers=shown_person)
    theirs = classes_seen(request.user).filter(inside).distinct()
    context = {
        "member": member,
        "person": shown_person,
        "form": form,
        "may_change": may_change(request.user, shown_person, Change.NAME),
        "pending_address": pending_address(shown_person),
        "may_issue_slip": may_issue_slip(request.user, shown_person),
        "classes": theirs,
        "other_classes": classes_seen(request.user).filter(archived_at=None).exclude(pk__in=theirs),
        "role_form": RoleForm(initial={"role": member.role}),
        "has_second_factor": request.user.is_head and access.second_factor_of(shown_person) is not None,
    }
    return render(request, "roster/person.html", context, status=422 if form.is_bound else 200)


@only_post
@for_heads
def set_role(request: Request, pk: int) -> HttpResponseBase:
    member, form = _person(request, pk), RoleForm(request.POST)
    if form.is_valid():
        try:
            roster.change_role(request.user, member.person, form.cleaned_data["role"])
            messages.success(request, _("Saved."))
        except LastHead:
            messages.error(request, _("A school needs a head. Make someone else head first."))
    return redirect("person", pk=pk)


@only_post
@for_heads
def leave(request: Request, pk: int) -> HttpResponseBase:
    """Off the school; takes and marks stay."""
    member = _person(request, pk)
    try:
        roster.leave_school(request.user, member.person)
        messages.success(request, _("%(name)s has left the school.") % {"name": member.person.name})
    except LastHead:
        messages.error(request, _("A school needs a head. Make someone else head first."))
    return redirect("person", pk=pk)


@only_post
@for_heads
def come_back(request: Request, pk: int) -> HttpResponseBase:
    try:
        roster.return_to_school(request.user, _person(request, pk).person)
    except NoRoom as problem:
        messages.error(request, problem.sentence)
    return redirect("person", pk=pk)


@only_post
@for_heads
def remove_second_factor(request: Request, pk: int) -> HttpResponseBase:
    access.remove_second_factor(_person(request, pk).person, by=request.user)
    messages.success(request, _("From now on only their password is needed to sign in."))
    return redirect("person", pk=pk)


@only_post
@for_teachers
def person_slip(request: Request, pk: int) -> HttpResponseBase:
    """A slip for one: the code before it ends."""
    member = _person(request, pk)
    title = _("Slip for %(name)s") % {"name": member.person.name}
    return asked_for(
        request,
        "roster.slips",
        title=title,
        back=reverse("person", args=[pk]),
        people=[pk],
        by=request.user.pk,
    )


@only_post
@for_teachers
def class_slips(request: Request, pk: int) -> HttpResponseBase:
    """Slips for those of a class who have never signed in; or for all that are ticked."""
    school_class = get_object_or_404(classes_seen(request.user), pk=pk)
    students = school_class.students.all()
    if "all" not in request.POST:
        students = students.filter(last_login=None)
    keys = list(students.values_list("pk", flat=True)[:MAX_SLIPS])
    if not keys:
        messages.info(request, _("Everybody of this class has signed in already."))
        return redirect("class", pk=pk)
    title = _("Slips for %(name)s") % {"name": school_class.name}
    return asked_for(
        request,
        "roster.slips",
        title=title,
        back=reverse("class", args=[pk]),
        people=keys,
        by=request.user.pk,
    )


@only_post
@for_teachers
def join(request: Request, pk: int) -> HttpResponseBase:
    """Put somebody into a class."""
    member = _person(request, pk)
    school_class = get_object_or_404(SchoolClass, pk=whole(request.POST.get("class", "")) or 0)
    roster.join_class(request.user, member.person, school_class)
    return redirect("person", pk=pk)


@only_post
@for_teachers
def leave_class(request: Request, pk: int) -> HttpResponseBase:
    """Remove a person from a class, or move them into another in one go."""
    school_class = get_object_or_404(classes_seen(request.user), pk=whole(request.POST.get("class", "")) or 0)
    inside = Q(classes_attended=school_class) | Q(classes_taught=school_class)
    student = get_object_or_404(User.objects.filter(inside).distinct(), pk=pk)
    into = whole(request.POST.get("into", ""))
    is_student = school_class.students.filter(pk=student.pk).exists()
    names = {"name": student.name, "class": school_class}
    if into:
        other = get_object_or_404(classes_seen(request.user), pk=into)
        roster.move_student(request.user, student, out_of=school_class, into=other)
        message = _(
            "%(name)s has moved from %(class)s to %(other)s. Takes and marks stay with %(class)s, and %(name)s can still "
            "see them. In %(other)s only work that is due from now on counts."
        ) % {**names, "other": other}
    else:
        roster.leave_class(request.user, student, school_class)
        message = _("%(name)s is no longer in %(class)s.") % names
        if is_student:
            message += (
                " " + _("Takes and marks stay with the class, and %(name)s can still see them.") % names
            )
    messages.success(request, message)
    return redirect("class", pk=school_class.pk)


@only_post
@for_teachers
def withdraw_invitation(request: Request, pk: int) -> HttpResponseBase:
    withdraw(request.user, get_object_or_404(Invitation, pk=pk, made_by=request.user))
    return redirect("people")
