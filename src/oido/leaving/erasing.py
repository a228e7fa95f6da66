"""Somebody is erased: names gone from every table, log and file. What a class did stays, of "a former student".

What was handed in keeps its marks and what was measured, for the statistics of the class, without the recording and without
anything that was written by or to the person. Everything else of theirs goes. Logs hold keys alone.
"""

import logging
import quopri
import re
import secrets
from collections.abc import Callable
from pathlib import Path
from typing import Any

from axes.models import AccessAttempt, AccessFailureLog, AccessLog
from django.conf import settings
from django.db import transaction
from django.db.models import Q
from django_otp.plugins.otp_static.models import StaticDevice
from django_otp.plugins.otp_totp.models import TOTPDevice

from oido.access.guesses import GuessKind, source_of_person
from oido.access.models import LETTERS, EmailChange, Identity, SignedIn, SignInCode, WrongGuesses
from oido.access.sessions import end_sessions
from oido.assignments.models import Arrangement, Reminder
from oido.audit.models import Act
from oido.audit.services import remember
from oido.common.permissions import NotAllowed
from oido.exercises.models import ImportedFile
from oido.jobs.models import Job
from oido.leaving.models import Erasure
from oido.limits.models import Usage
from oido.marking.models import MarkSheet, Phrase, Remark, Reply, SheetChange
from oido.people.models import Membership, User
from oido.post.models import Email
from oido.roster.models import Invitation, ListImport
from oido.roster.people import leave_school
from oido.takes.models import (
    CorrectedCopy,
    HandIn,
    Judgement,
    KitSetUp,
    Measurement,
    PracticeDay,
    RungClimbed,
    StandSettings,
    Take,
    TakeFile,
    TakePass,
    Visit,
)

RECEIPT_SIGNS = 12
MORE: list[Callable[[User], object]] = []
"""Apps above erase what they hold about somebody."""
logger = logging.getLogger(__name__)


class OfOtherSchools(NotAllowed):
    """They are of another school, too: this one can only let them leave."""


@transaction.atomic
def erase(head: User, person: User) -> Erasure:
    """Erase a person. This cannot be undone. Raise NotAllowed, OfOtherSchools or LastHead."""
    member = Membership.everywhere.filter(person=person, school=head.school_id).first()
    if not head.is_head or member is None or person.pk == head.pk:
        raise NotAllowed
    if Membership.everywhere.filter(person=person).exclude(school=head.school_id).exists():
        raise OfOtherSchools
    locked = User.objects.select_for_update().get(pk=person.pk)
    if locked.erased_as:
        raise NotAllowed
    if member.left_at is None:
        leave_school(head, locked)
    names = Names(locked)
    went = {**_takes(locked), **_written(locked), **_traces(locked, names)}
    _lists(head.school_id, locked, names)
    locked.erased_as = member.role
    locked.username = f"former-{locked.pk}-{secrets.token_hex(4)}"
    locked.first_name = locked.last_name = locked.email = ""
    locked.is_active, locked.last_login = False, None
    locked.set_unusable_password()
    locked.save()
    receipt = "".join(secrets.choice(LETTERS) for _ in range(RECEIPT_SIGNS))
    made = Erasure.objects.create(school=head.current_school, receipt=receipt, by=head, went=went)
    remember("person_erased", actor=head, receipt=receipt)
    # Files cannot be rolled back: they go once everything else has gone.
    transaction.on_commit(lambda: _letters_in_files(names))
    logger.info("somebody erased, receipt %s", receipt)
    return made


class Names:
    """What somebody was called, to be looked for."""

    def __init__(self, person: User) -> None:
        self.username, self.email = person.username, person.email
        self.first, self.last = person.first_name, person.last_name
        self.full = person.name

    def stand_in(self, text: str) -> bool:
        """Return whether the names occur in a text as whole words: “Ann” is not in “channel”."""
        return any(
            re.search(self.pattern(name), text, re.IGNORECASE) for name in (self.full, self.email) if name
        )

    @staticmethod
    def pattern(name: str) -> str:
        return rf"\b{re.escape(name)}\b"


def _takes(person: User) -> dict[str, int]:
    """What was not handed in goes; of the rest, the recording and what is written beside it."""
    takes = Take.everywhere.filter(student=person)
    gone = takes.filter(handed_in_at=None)
    gone_count = gone.count()
    TakePass.objects.filter(take__in=takes).delete()
    TakeFile.objects.filter(take__in=takes).delete()
    CorrectedCopy.objects.filter(take__in=takes).delete()
    gone.delete()
    for take in takes.filter(shown__isnull=False):
        if take.showing is not None:
            take.shown = take.showing.without_explanations().to_json()
            take.save(update_fields=["shown"])
    # Note by note nothing stays that is tied to a person; the mark and its few figures do, for the class.
    Measurement.objects.filter(take__in=takes).update(facts={}, imprint=None)
    Judgement.objects.filter(measurement__take__in=takes).update(scores={})
    kept = takes.update(events=[], device="", name="", pads={}, kit_pads={}, settings={}, is_starred=False)
    return {"takes": gone_count, "recordings": kept}


def _written(person: User) -> dict[str, int]:
    takes = Take.everywhere.filter(student=person)
    replies = Reply.objects.filter(Q(author=person) | Q(take__in=takes)).delete()[0]
    remarks = Remark.objects.filter(Q(author=person) | Q(take__in=takes)).delete()[0]
    for sheet in MarkSheet.objects.filter(take__in=takes):
        sheet.changes = {name: {**given, "why": ""} for name, given in sheet.changes.items()}
        sheet.asked_again_why = ""
        sheet.save(update_fields=["changes", "asked_again_why"])
    SheetChange.objects.filter(sheet__take__in=takes).update(why="", before={}, after={}, is_undone=True)
    hand_ins = HandIn.objects.filter(student=person).update(note="", answers=[])
    Arrangement.objects.filter(student=person).update(excused_why="")
    Reminder.objects.filter(student=person).delete()
    Visit.objects.filter(student=person).delete()
    for erase_more in MORE:
        erase_more(person)
    Phrase.everywhere.filter(owner=person).delete()
    PracticeDay.objects.filter(student=person).delete()
    RungClimbed.objects.filter(student=person).delete()
    KitSetUp.objects.filter(student=person).delete()
    StandSettings.objects.filter(student=person).delete()
    return {"remarks": remarks, "replies": replies, "notes": hand_ins}


def _traces(person: User, names: Names) -> dict[str, int]:
    """Ways in, e-mails, jobs, sessions."""
    sessions = end_sessions(person)
    SignedIn.objects.filter(person=person).delete()
    SignInCode.everywhere.filter(person=person).delete()
    EmailChange.objects.filter(person=person).delete()
    TOTPDevice.objects.filter(user=person).delete()
    StaticDevice.objects.filter(user=person).delete()
    WrongGuesses.objects.filter(kind=GuessKind.OWN_PASSWORD, source=source_of_person(person)).delete()
    Usage.objects.filter(source=str(person.pk)).delete()
    Identity.objects.filter(person=person).delete()
    # What they did stays in the trail, of a former member; from where does not.
    own_acts = Q(actor=person) | Q(actor=None, person=person)
    Act.everywhere.filter(own_acts).update(address=None)
    for log in (AccessAttempt, AccessLog, AccessFailureLog):
        log.objects.filter(username=names.username).delete()
    whose = Q(person=person) | (Q(to__iexact=names.email) if names.email else Q())
    emails = Email.everywhere.filter(whose)
    emails = emails | Email.everywhere.filter(body__iregex=names.pattern(names.full))
    email_count = emails.distinct().count()
    Email.everywhere.filter(pk__in=[*emails.values_list("pk", flat=True)]).delete()
    if names.email:
        Invitation.everywhere.filter(email__iexact=names.email).delete()
    Invitation.everywhere.filter(accepted_by=person).delete()
    ImportedFile.everywhere.filter(owner=person).delete()
    # What others have had made of them: papers, slips.
    keys = [str(key) for key in Take.everywhere.filter(student=person).values_list("pk", flat=True)]
    about = (
        Q(owner=person) | Q(title__icontains=names.full) | Q(kind="roster.slips") | Q(kind="gradebook.class")
    )
    for job in Job.objects.exclude(arguments={}).only("pk", "arguments"):
        if str(job.arguments.get("take", "")) in keys:
            about |= Q(pk=job.pk)
    jobs = Job.objects.filter(about).delete()[0]
    return {"sessions": sessions, "letters": email_count, "files": jobs}


def _lists(school: int | None, person: User, names: Names) -> None:
    """Lists that were imported hold names until they are a month old."""
    for stored in ListImport.everywhere.filter(school=school).exclude(people=[], done={}):
        stored.people = [one for one in stored.people if not _is_listed(one, names)]
        stored.done.get("before", {}).pop(str(person.pk), None)
        stored.save(update_fields=["people", "done"])


def _is_listed(listed: dict[str, Any], names: Names) -> bool:
    written = [listed.get(name, "").casefold() for name in ("first", "last", "username", "email")]
    known = [name.casefold() for name in (names.first, names.last, names.username, names.email)]
    same_name = written[:2] == known[:2]
    return same_name or any(
        here and here == there for here, there in zip(written[2:], known[2:], strict=True)
    )


def _letters_in_files(names: Names) -> None:
    """Letters that went to files: as they stand there, and as they are read once decoded."""
    folder = Path(settings.EMAIL_FILE_PATH)
    for file in folder.glob("*.log") if folder.is_dir() else ():
        data = file.read_bytes()
        texts = (data.decode(errors="replace"), quopri.decodestring(data).decode(errors="replace"))
        if any(map(names.stand_in, texts)):
            file.unlink(missing_ok=True)
