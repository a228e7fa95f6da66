"""What a gradebook holds about one person: for their archive, and to be erased."""

from typing import Any

from oido.gradebook.models import Entry, EntryChange, ReportText
from oido.gradebook.services import describe_entry
from oido.people.models import User


def read(person: User, school: int, is_own: bool) -> Any:
    """Return a person's entered marks and texts. In their own archive only what was released is included."""
    if is_own:
        return []
    entries = Entry.objects.filter(student=person, column__school=school).select_related(
        "column__school_class", "column__assignment__exercise"
    )
    texts = ReportText.objects.filter(student=person, school_class__school=school).select_related(
        "school_class", "term"
    )
    return [
        *(
            {
                "class": one.column.school_class.name, "out_of": one.column.out_of, "mark": describe_entry(one),
                "column": one.column.name or str(one.column.assignment and one.column.assignment.exercise),
            }
            for one in entries
        ),
        *(
            {"class": one.school_class.name, "term": one.term.name if one.term else "", "text": one.text}
            for one in texts
        ),
    ]  # fmt: skip


def erase(person: User) -> None:
    """Erase a person's entered marks and texts. The history keeps that something was entered, without words."""
    ReportText.objects.filter(student=person).delete()
    EntryChange.objects.filter(student=person).update(why="")
    Entry.objects.filter(student=person).delete()
