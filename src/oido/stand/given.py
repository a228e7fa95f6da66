"""What a student is given, as this student has it."""

from django.shortcuts import get_object_or_404

from oido.assignments.deals import Deal, deal_of
from oido.assignments.queries import visible_assignments
from oido.people.requests import Request


def deal_or_404(request: Request, pk: int) -> Deal:
    return deal_of(get_object_or_404(visible_assignments(request.user), pk=pk), request.user)
