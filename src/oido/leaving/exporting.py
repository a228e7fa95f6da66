"""Everything about one person as an archive that opens without Oido: MIDI, CSV, PDF, JSON, and what the JSON means."""

import csv
import io
import json
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.utils import timezone
from django.utils.text import slugify
from django.utils.translation import gettext as _

from ear.extraction.codec import facts_to_json
from oido.assignments.models import Arrangement
from oido.audit.models import Act
from oido.common.cells import BOM, plain_cell
from oido.jobs.kinds import Progress
from oido.leaving.held import held_of
from oido.marking.models import Remark, Reply
from oido.people.conventions import reader_of
from oido.people.models import Membership, User
from oido.reports.analysed_take import AnalysedTake
from oido.reports.pdf import report_pdf
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take
from oido.takes.outputs import midi_with_copy, recorded_midi

SCHEMA = "oido.person/1"
MORE: dict[str, Callable[[User, int, bool], Any]] = {}
"""What apps above hold about somebody, by its name in the archive: person, school, whether it is their own archive."""
README = """Everything that this school's Oido holds about one person.

person.json      who they are, their classes, takes, marks, remarks and replies; described below
takes.csv        one line for each take, for a spreadsheet
takes/*.mid      each take as a Standard MIDI File, the count-in ahead of bar 1
reports/*.pdf    the report of each take whose mark may be seen
facts/*.json     what was measured in each take, in the schema oido.measure/2 (its part "facts")
recorded/*.json  each take as it came from the instrument: events as [ms, status, data1, data2], pads, latency, settings of its own, further passes
copies/*.mid     takes with their corrected copy, a track each
files/*          recordings that were made elsewhere, as they were uploaded
held.json        everything else, table by table: visits, days and minutes of practice, rungs, settings of the Stand, kits, sessions, letters, jobs; of
                 teachers what they made, gave, wrote and changed. Names of fields say what stands in them. What belongs to a person
                 rather than to a school (practice, settings, sessions) is only in an archive that somebody makes of themselves

person.json, schema oido.person/1. Times are in UTC, as ISO 8601 writes them.

schema           "oido.person/1"
made_at          when this archive was made
person           first_name, last_name, username, email, joined_at, left_at, role, school
classes          names of the classes attended and taught now
takes            a list: file (in takes/), exercise, class, number, recorded_at, handed_in_at, deleted_at, tempo_bpm (quarter notes
                 a minute), source, device, name, explained (what was shown in a copy and said of it), mark (points), out_of, band, is_released, remarks, replies
hand_ins         a list: exercise, first_at, changed_at, note, answers as pairs of question and answer
arrangements     what was arranged for this person alone: exercise, plays_instead (another exercise), excused_at,
                 excused_why, due_at, attempts, slower_percent
gradebook        marks that a teacher entered: class, column, out_of, mark as it was typed (e excused, m missing), and the
                 texts of reports; not in an archive that somebody makes of themselves
acts             what the school's trail holds about them: at, what, address
"""


def person_archive(person: User, *, reader: User, progress: Progress = lambda done, total: None) -> bytes:
    """Return the archive of a person as a reader may see it.

    A person's own archive leaves out marks that are not released.
    """
    is_own = reader.pk == person.pk
    school = reader.school
    assert school is not None
    takes = list(
        Take.objects.filter(student=person, school=school)
        .select_related(
            "assignment__exercise", "assignment__school_class", "assignment__rubric", "student", "part", "sheet",
            "judgement__measurement", "judgement__rubric__rubric", "corrected", "file",
        )
        .prefetch_related("passes")
        .order_by("recorded_at", "pk")
    )  # fmt: skip
    buffer = io.BytesIO()
    rows: list[dict[str, object]] = []
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("README.txt", README)
        for number, take in enumerate(takes, 1):
            row = _take(take, number, is_own=is_own)
            rows.append(row)
            archive.writestr(f"takes/{row['file']}.mid", recorded_midi(take, with_count_in=True))
            archive.writestr(f"recorded/{row['file']}.json", _json(_recorded(take, is_own=is_own)))
            if hasattr(take, "corrected"):
                archive.writestr(f"copies/{row['file']}.mid", midi_with_copy(take))
            if hasattr(take, "file"):
                ending = Path(take.file.name).suffix
                archive.writestr(f"files/{row['file']}{ending}", bytes(take.file.data))
            judgement = judged(take)
            if judgement.is_readable:
                archive.writestr(f"facts/{row['file']}.json", json.dumps(facts_to_json(judgement.facts)))
                if row["mark"] is not None:
                    paper = report_pdf(
                        AnalysedTake(take), list(take.remarks.select_related("author")), reader_of(reader)
                    )
                    archive.writestr(f"reports/{row['file']}.pdf", paper)
            progress(number, len(takes))
        archive.writestr("takes.csv", _csv(rows))
        archive.writestr("person.json", _json(_person(person, school.pk, rows, is_own=is_own)))
        archive.writestr("held.json", _json(held_of(person, school.pk, is_own=is_own)))
    return buffer.getvalue()


def _json(value: object) -> str:
    return json.dumps(value, cls=DjangoJSONEncoder, ensure_ascii=False, indent=1)


def _recorded(take: Take, *, is_own: bool) -> dict[str, object]:
    """A take as it came from the instrument, pass by pass; with what a teacher has set for it where that may be seen."""
    sheet = getattr(take, "sheet", None)
    is_seen = not is_own or (sheet is not None and sheet.is_released)
    return {
        "events": take.events, "pads": take.pads, "kit_pads": take.kit_pads, "latency_ms": take.latency_ms, "settings": take.settings if is_seen else {},
        "ending": take.ending, "passes": [
            {
                "number": laid.number, "way": laid.way, "from_ms": laid.from_ms, "until_ms": laid.until_ms, "pitches": laid.pitches,
                "events": laid.events, "latency_ms": laid.latency_ms, "recorded_at": laid.recorded_at, "undone_at": laid.undone_at,
            }
            for laid in take.passes.all()
        ],
    }  # fmt: skip


def _take(take: Take, number: int, *, is_own: bool) -> dict[str, object]:
    sheet = getattr(take, "sheet", None)
    seen = sheet if sheet is not None and (sheet.is_released or not is_own) else None
    exercise = take.exercise
    return {
        "file": f"{number:03d}-{slugify(exercise.title) or 'take'}-{take.number}",
        "exercise": exercise.title,
        "class": take.assignment.school_class.name,
        "number": take.number,
        "recorded_at": _time(take.recorded_at),
        "handed_in_at": _time(take.handed_in_at),
        "deleted_at": _time(take.deleted_at),
        "tempo_bpm": float(take.tempo_bpm),
        "source": take.source,
        "device": take.device,
        "name": take.name,
        "explained": [[one.asked.skill.value, one.explanation] for one in take.showing.things]
        if take.showing
        else [],
        "mark": seen.points if seen else None,
        "out_of": seen.out_of if seen else None,
        "band": seen.band if seen else None,
        "is_released": bool(sheet and sheet.is_released),
        "remarks": [_remark(one) for one in take.remarks.all()] if seen else [],
        "replies": [_reply(one) for one in take.replies.all()] if seen else [],
    }


def _remark(remark: Remark) -> dict[str, object]:
    return {
        "bar": remark.bar,
        "beat": remark.beat,
        "text": remark.text,
        "written_at": _time(remark.written_at),
    }


def _reply(reply: Reply) -> dict[str, object]:
    return {
        "is_own": reply.author_id == reply.take.student_id,
        "text": reply.text,
        "written_at": _time(reply.written_at),
    }


def _person(person: User, school: int, rows: list[dict[str, object]], *, is_own: bool) -> dict[str, object]:
    member = Membership.everywhere.select_related("school").get(person=person, school=school)
    acts = Act.everywhere.filter(school=school, person=person) | Act.everywhere.filter(
        school=school, actor=person
    )
    hand_ins = HandIn.objects.filter(student=person, assignment__school=school).select_related(
        "assignment__exercise"
    )
    return {
        "schema": SCHEMA,
        "made_at": _time(timezone.now()),
        "person": {
            "first_name": person.first_name, "last_name": person.last_name, "username": person.username,
            "email": person.email, "joined_at": _time(member.joined_at), "left_at": _time(member.left_at),
            "role": member.role, "school": member.school.name,
        },
        "classes": [
            *person.classes_attended.filter(school=school).values_list("name", flat=True),
            *person.classes_taught.filter(school=school).values_list("name", flat=True),
        ],
        "takes": rows,
        "hand_ins": [
            {
                "exercise": one.assignment.exercise.title, "first_at": _time(one.first_at),
                "changed_at": _time(one.changed_at), "note": one.note, "answers": one.answers,
            }
            for one in hand_ins
        ],
        "arrangements": [
            {
                "exercise": one.assignment.exercise.title, "excused_at": _time(one.excused_at),
                "excused_why": one.excused_why, "due_at": _time(one.due_at), "attempts": one.attempts,
                "plays_instead": one.version.title if one.version else None, "slower_percent": one.slower_percent,
            }
            for one in Arrangement.objects.filter(
                student=person, assignment__school=school
            ).select_related("assignment__exercise", "version")
        ],
        **{name: read(person, school, is_own) for name, read in MORE.items()},
        "acts": [
            {"at": _time(act.at), "what": f"{act.who} {act.text}", "address": act.address}
            for act in acts.select_related("actor", "person", "school_class")
        ],
    }  # fmt: skip


def _time(when: Any) -> str | None:
    return when.isoformat() if when is not None else None


def _csv(rows: list[dict[str, object]]) -> str:
    buffer = io.StringIO()
    names = [
        "file", "exercise", "class", "number", "recorded_at", "handed_in_at", "tempo_bpm", "mark", "out_of", "band",
    ]  # fmt: skip
    writer = csv.writer(buffer)
    writer.writerow(names)
    for row in rows:
        writer.writerow(["" if row[name] is None else plain_cell(str(row[name])) for name in names])
    return BOM + buffer.getvalue()


def archive_name(person: User) -> str:
    return f"{slugify(person.name) or _('person')}.zip"
