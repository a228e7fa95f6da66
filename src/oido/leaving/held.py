"""What is held about a person beside their takes: for their archive, table by table."""

from dataclasses import dataclass

from django.apps import apps
from django.db.models import Model, Q

from oido.people.models import User


@dataclass(frozen=True, slots=True, kw_only=True)
class Held:
    """Rows of one table that are a person's: in the archive under a name, with these fields.

    `school` leads from a row to its school; empty where a row belongs to the person in all of them. Such rows are in the archive that
    somebody makes of themselves, and in no head's: a head sees one school, and not how much somebody practises.
    """

    name: str
    table: str
    person: str
    fields: tuple[str, ...]
    school: str = "school"
    only: tuple[tuple[str, bool], ...] = ()
    """What else must be so of a row."""

    def rows(self, person: User, school: int) -> list[dict[str, object]]:
        """Return the rows, oldest first, as plain values."""
        model: type[Model] = apps.get_model(self.table)
        mine = Q(**{self.person: person}, **dict(self.only))
        if self.school:
            mine &= Q(**{self.school: school})
        return list(model._base_manager.filter(mine).order_by("pk").values(*self.fields))


HELD = (
    # What somebody did at the Stand.
    Held(
        name="visits", table="takes.Visit", person="student", school="assignment__school",
        fields=("assignment__exercise__title", "opened_at", "last_at", "practised_at", "loops", "heard"),
    ),
    Held(name="practice_days", table="takes.PracticeDay", person="student", school="", fields=("day", "seconds", "passages")),
    Held(
        name="rungs", table="takes.RungClimbed", person="student", school="assignment__school",
        fields=("assignment__exercise__title", "points", "passed_at"),
    ),
    Held(name="stand_settings", table="takes.StandSettings", person="student", school="", fields=("kept", "changed_at")),
    Held(name="kits", table="takes.KitSetUp", person="student", school="", fields=("device", "pads", "changed_at")),
    # How somebody gets in, and what was sent to them.
    Held(name="attendance", table="people.Attendance", person="user", school="schoolclass__school", fields=("schoolclass__name", "joined_at")),
    Held(name="joined_by_code", table="roster.Joined", person="person", school="code__school", fields=("code__school_class__name", "at")),
    Held(name="invitations_accepted", table="roster.Invitation", person="accepted_by", fields=("email", "role", "made_at")),
    Held(name="signed_in", table="access.SignedIn", person="person", school="", fields=("browser", "address", "begun_at", "seen_at")),
    Held(name="school_accounts", table="access.Identity", person="person", school="", fields=("issuer", "subject", "linked_at")),
    Held(name="slips", table="access.SignInCode", person="person", fields=("made_at", "ends_at", "used_at")),
    Held(name="email_change", table="access.EmailChange", person="person", school="", fields=("address", "old_address", "requested_at")),
    Held(name="two_step_app", table="otp_totp.TOTPDevice", person="user", school="", fields=("name", "confirmed")),
    Held(name="two_step_codes", table="otp_static.StaticDevice", person="user", school="", fields=("name", "confirmed")),
    # One with a link that lets somebody in is not for a head to read.
    Held(
        name="letters", table="post.Email", person="person", only=(("is_secret", False),),
        fields=("to", "subject", "body", "written_at", "sent_at", "state"),
    ),
    Held(
        name="letters_with_links", table="post.Email", person="person", only=(("is_secret", True),),
        fields=("to", "subject", "written_at", "sent_at", "state"),
    ),
    Held(
        name="reminders", table="assignments.Reminder", person="student", school="assignment__school",
        fields=("assignment__exercise__title", "sent_at"),
    ),
    Held(name="jobs", table="jobs.Job", person="owner", fields=("kind", "title", "state", "made_at", "ended_at")),
    # What somebody made and wrote as a teacher.
    Held(
        name="exercises", table="exercises.Exercise", person="owner",
        fields=("title", "kind", "instructions", "labels", "created_at", "deleted_at"),
    ),
    Held(name="imported_files", table="exercises.ImportedFile", person="owner", fields=("name", "created_at")),
    Held(name="booklets", table="booklets.Booklet", person="owner", fields=("title", "text", "made_at")),
    Held(name="rubrics", table="rubrics.Rubric", person="owner", fields=("name", "kind")),
    Held(name="scales_heard", table="rubrics.ScaleHearing", person="teacher", school="", fields=("marks",)),
    Held(
        name="given", table="assignments.Assignment", person="given_by",
        fields=("exercise__title", "school_class__name", "given_at", "due_at"),
    ),
    Held(name="booklets_given", table="assignments.BookletAssignment", person="given_by", fields=("booklet__title", "school_class__name", "given_at")),
    Held(name="reminders_sent", table="assignments.Reminder", person="by", school="assignment__school", fields=("assignment__exercise__title", "sent_at")),
    Held(
        name="remarks_written", table="marking.Remark", person="author", school="take__school",
        fields=("take__assignment__exercise__title", "take__number", "bar", "beat", "text", "written_at"),
    ),
    Held(
        name="replies_written", table="marking.Reply", person="author", school="take__school",
        fields=("take__assignment__exercise__title", "take__number", "text", "written_at"),
    ),
    Held(
        name="marks_changed", table="marking.SheetChange", person="by", school="sheet__take__school",
        fields=("sheet__take__assignment__exercise__title", "kind", "criterion", "why", "made_at"),
    ),
    Held(name="phrases", table="marking.Phrase", person="owner", fields=("text",)),
    Held(
        name="marked_again", table="marking.Remarking", person="begun_by", school="assignment__school",
        fields=("assignment__exercise__title", "rubric__rubric__name", "begun_at"),
    ),
    Held(name="lists_imported", table="roster.ListImport", person="made_by", fields=("file_name", "made_at", "state")),
    Held(name="join_codes", table="roster.JoinCode", person="made_by", fields=("school_class__name", "made_at", "ends_at", "closed_at")),
    Held(name="invitations_made", table="roster.Invitation", person="made_by", fields=("role", "made_at", "withdrawn_at")),
    Held(name="slips_made", table="access.SignInCode", person="made_by", fields=("made_at", "ends_at")),
    Held(name="people_erased", table="leaving.Erasure", person="by", fields=("receipt", "at")),
)  # fmt: skip


def held_of(person: User, school: int, *, is_own: bool) -> dict[str, list[dict[str, object]]]:
    """Return everything in HELD about a person, by its name, for an archive of their own or a head's."""
    return {held.name: held.rows(person, school) for held in HELD if is_own or held.school}
