"""Who goes: an archive that opens without Oido, erasing with a receipt, terms after which takes go."""

import csv
import io
import json
import tempfile
import zipfile
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from django.apps import apps
from django.core.mail import EmailMessage, get_connection
from django.db import models
from django.test import Client, TestCase, override_settings
from django.utils import timezone

from ear.extraction.codec import facts_from_json
from ear.formats.smf import read_contents
from ear.judging.judgement import TeacherScore
from ear.practice.ladder import Rung
from ear.practice.showing import InWords, Showing, Shown, Skill, ToShow
from oido.access.services import make_code, write_reset
from oido.audit.models import Act
from oido.common.permissions import NotAllowed
from oido.feedback import remarks as talk
from oido.leaving.background import retention
from oido.leaving.erasing import OfOtherSchools, erase
from oido.leaving.exporting import README, person_archive
from oido.leaving.forms import RetentionForm, TermForm
from oido.leaving.held import HELD
from oido.leaving.models import Erasure, Term
from oido.leaving.retention import change_terms, delete_expired_takes, due, months_after
from oido.marking.services import give_score, release
from oido.people.models import Membership, Role, School, User
from oido.roster import joining, people
from oido.roster.importing import import_list, store_list
from oido.roster.lists import read_text
from oido.takes.at_stand import practised, save_settings
from oido.takes.copies import open_copy
from oido.takes.models import HandIn, RungClimbed, Take, TakeFile, rung_key
from tests.oido import factories
from tests.oido.factories import PASSWORD

ELSEWHERE = {
    ("people.Membership", "person"): "person.json, person",
    ("people.User_groups", "user"): "Django's own, which Oido does not use",
    ("people.User_user_permissions", "user"): "the same",
    ("people.SchoolClass_teachers", "user"): "person.json, classes",
    ("people.SchoolClass", "teachers"): "person.json, classes",
    ("people.SchoolClass", "students"): "person.json, classes",
    ("audit.Act", "actor"): "person.json, acts",
    ("audit.Act", "person"): "person.json, acts",
    ("takes.Take", "student"): "person.json, takes",
    ("takes.HandIn", "student"): "person.json, hand_ins",
    ("assignments.Arrangement", "student"): "person.json, arrangements",
    ("gradebook.Entry", "student"): "person.json, gradebook",
    ("gradebook.EntryChange", "student"): "the same marks, as they were before",
    ("gradebook.EntryChange", "by"): "marks of others",
    ("gradebook.ReportText", "student"): "person.json, gradebook",
    ("marking.MarkSheet", "released_by"): "held.json, marks_changed",
    ("access.EmailChange", "requested_by"): "the change of somebody else; the trail has it",
    ("opening.DismissedStep", "person"): "which hints were closed",
}
"""What points to a person and stands somewhere else in the archive than in `held.json`, or not at all: where, or why."""
KEPT = {
    ("takes.Take", "student"): "handed in: the mark and its figures, for the statistics of the class",
    ("takes.HandIn", "student"): "when something was handed in, without words",
    ("assignments.Arrangement", "student"): "another due date explains a mark",
    ("people.Attendance", "user"): "who was in a class, for its statistics",
    ("people.SchoolClass", "students"): "the same",
    ("people.Membership", "person"): "that somebody was here, and has left",
    ("audit.Act", "actor"): "what was done in the school, of a former member",
    ("audit.Act", "person"): "the same",
    ("roster.Joined", "person"): "how often a code was used",
    ("gradebook.EntryChange", "student"): "that something was entered, without words",
}
FIRST, LAST, EMAIL, USERNAME = "Zephyrine", "Quillamore", "zq@home.example", "zephyrine.q"


def texts() -> list[tuple[str, str]]:
    """Everything that any table holds as text, with where it stands."""
    actual = []
    textual = models.CharField | models.TextField | models.JSONField | models.BinaryField
    for model in apps.get_models(include_auto_created=True):
        fields = [field.name for field in model._meta.concrete_fields if isinstance(field, textual)]
        for row in model._base_manager.values_list(*fields) if fields else ():
            for name, value in zip(fields, row, strict=True):
                is_binary = isinstance(value, bytes | memoryview)
                text = bytes(value).decode(errors="replace") if is_binary else str(value)
                actual.append((f"{model._meta.label}.{name}", text))
    return actual


class LeavingTest(TestCase):
    def setUp(self) -> None:
        self.head, self.teacher, self.classmate = factories.head(), factories.teacher(), factories.student()
        self.person = people.add_person(
            self.head, role=Role.STUDENT, first=FIRST, last=LAST, username=USERNAME, email=EMAIL
        )
        self.school_class = factories.school_class(
            teachers=[self.teacher], students=[self.person, self.classmate]
        )
        self.given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        factories.take(self.person, self.given)
        self.take = factories.handed_in(self.person, self.given)
        factories.handed_in(self.classmate, self.given)

    def busy_life(self) -> None:
        """Leave the name wherever it can be left."""
        self.person.set_password(PASSWORD)
        self.person.save()
        Client().post("/sign-in/", {"username": USERNAME, "password": "wrong"})
        Client().post("/sign-in/", {"username": USERNAME, "password": PASSWORD})
        Take.objects.filter(pk=self.take.pk).update(name=f"{FIRST}'s best", device=f"{FIRST}'s piano")
        HandIn.objects.filter(student=self.person).update(
            note=f"By {FIRST}", answers=[["Why?", f"{FIRST} says so"]]
        )
        talk.write_remark(self.teacher, self.take, text=f"{FIRST}, look ahead", bar=None, beat=None)
        give_score(self.teacher, self.take, "timing", TeacherScore(score=80, why=f"{FIRST} was ill"))
        release(self.teacher, self.take)
        talk.reply(self.person, Take.objects.get(pk=self.take.pk), text=f"Thank you. {FIRST}")
        shown = Shown(
            asked=ToShow(skill=Skill.LENGTHS, in_words=InWords.OWN), explanation=f"{FIRST} made them short"
        )
        Take.objects.filter(pk=self.take.pk).update(shown=Showing(percent=50, things=(shown,)).to_json())
        self.client.force_login(self.teacher)
        self.client.get(f"/takes/{self.take.pk}/report.pdf")
        self.client.post(f"/classes/{self.school_class.pk}/slips/", {"all": "1"})
        factories.work_all()
        make_code(self.teacher, self.person)
        User.objects.filter(pk=self.person.pk).update(email=EMAIL)
        write_reset(EMAIL)
        listed = read_text(f"Sign-in name;Name\n{USERNAME};{FIRST} New {LAST}\n;Bo Rowe")
        import_list(self.head, store_list(self.head, listed, file_name="", school_class=None), {})
        people.change_details(self.head, self.person, first=FIRST, last=LAST, username=USERNAME, email=EMAIL)
        joining.invite(self.head, email=EMAIL, role=Role.STUDENT)
        code = joining.open_code(self.teacher, self.school_class, ends_at=timezone.now() + timedelta(days=1))
        joining.join_by_code(self.person, code)
        self.client.force_login(self.head)
        self.client.post(f"/people/{self.person.pk}/everything/")
        factories.work_all()

    def test_names_are_gone_from_every_table_and_file(self) -> None:
        self.busy_life()
        words = (FIRST.lower(), LAST.lower(), EMAIL, USERNAME)
        before = {where for where, text in texts() if any(word in text.lower() for word in words)}
        self.assertGreater(len(before), 8)
        files = "django.core.mail.backends.filebased.EmailBackend"
        with (
            tempfile.TemporaryDirectory() as folder,
            override_settings(EMAIL_FILE_PATH=folder, EMAIL_BACKEND=files),
        ):
            # Both at once alive: files are named by the second and the connection's identity, which may come again.
            one, other = get_connection(), get_connection()
            EmailMessage("Hello", f"Hello {FIRST} {LAST}", "a@s.example", [EMAIL], connection=one).send()
            EmailMessage("Hello", "Hello Bo", "a@s.example", ["bo@s.example"], connection=other).send()
            with self.captureOnCommitCallbacks(execute=True), self.assertLogs("oido", "INFO") as logs:
                made = erase(self.head, self.person)
            self.assertEqual(len(list(Path(folder).iterdir())), 1)
        left = [where for where, text in texts() if any(word in text.lower() for word in words)]
        self.assertEqual(left, [])
        self.assertFalse(any(word in line.lower() for line in logs.output for word in words))
        self.assertEqual(made.went["recordings"], 1)
        showing = Take.objects.get(pk=self.take.pk).showing
        assert showing is not None
        self.assertEqual(
            [(one.asked.skill, one.explanation) for one in showing.things], [(Skill.LENGTHS, "")]
        )

    def test_class_statistics_say_a_former_student(self) -> None:
        erase(self.head, self.person)
        self.client.force_login(self.teacher)
        page = self.client.get(f"/assignments/{self.given.pk}/")
        self.assertContains(page, "a former student")
        self.assertNotContains(page, f'/takes/{self.take.pk}/"')
        here = f"/classes/{self.school_class.pk}/"
        for url in ("/", "/marking/", "/classes/", here, f"{here}progress/"):
            with self.subTest(url=url):
                self.assertEqual(self.client.get(url).status_code, 200)
        self.assertEqual(self.client.get(f"/takes/{self.take.pk}/").status_code, 404)
        kept = Take.objects.get(pk=self.take.pk)
        self.assertEqual((kept.events, kept.judgement is not None), ([], True))
        signed = Client().post("/sign-in/", {"username": USERNAME, "password": PASSWORD})
        self.assertEqual(signed.status_code, 200)

    def test_erasing_is_a_heads_confirmed_by_name_and_gives_a_receipt(self) -> None:
        elsewhere = factories.head(at=School.objects.create(name="Elsewhere"))
        for by in (self.teacher, self.classmate, self.person, elsewhere):
            self.assertRaises(NotAllowed, erase, by, self.person)
        self.assertRaises(NotAllowed, erase, self.head, self.head)
        self.client.force_login(self.head)
        url = f"/people/{self.person.pk}/erase/"
        wrong = self.client.post(url, {"sure": "somebody"})
        self.assertContains(wrong, "not their sign-in name", status_code=422)
        receipt = self.client.post(url, {"sure": USERNAME.upper()}, follow=True)
        self.assertContains(receipt, Erasure.objects.get().receipt)
        self.assertContains(receipt, "takes deleted")
        self.assertEqual(self.client.get(url).status_code, 404)
        self.assertContains(self.client.get("/school/trail/"), "a former student")

    def test_somebody_of_two_schools_is_not_one_schools_to_erase(self) -> None:
        elsewhere = School.objects.create(name="Elsewhere")
        Membership.objects.create(school=elsewhere, person=self.person, role=Role.STUDENT)
        self.assertRaises(OfOtherSchools, erase, self.head, self.person)
        self.assertEqual(User.objects.get(pk=self.person.pk).first_name, FIRST)

    def test_a_teacher_who_is_erased_leaves_exercises_and_marks(self) -> None:
        talk.write_remark(self.teacher, self.take, text="Look ahead", bar=None, beat=None)
        release(self.teacher, self.take)
        erase(self.head, self.teacher)
        self.client.force_login(self.head)
        exercise = self.client.get(f"/exercises/{self.given.exercise_id}/")
        self.assertContains(exercise, self.given.exercise.title)
        self.assertContains(exercise, "a former teacher")
        self.client.force_login(self.person)
        self.assertEqual(self.client.get(f"/takes/{self.take.pk}/").status_code, 200)

    def archive(self, reader: User, *, of: User | None = None) -> tuple[zipfile.ZipFile, dict[str, Any]]:
        actual = zipfile.ZipFile(io.BytesIO(person_archive(of or self.person, reader=reader)))
        return actual, json.loads(actual.read("person.json"))

    def test_the_archive_opens_without_oido_and_says_what_it_holds(self) -> None:
        talk.write_remark(self.teacher, self.take, text="Look ahead", bar=1, beat=None)
        release(self.teacher, self.take)
        actual, told = self.archive(self.head)
        self.assertEqual(
            sorted({name.split("/")[0] for name in actual.namelist()}),
            ["README.txt", "facts", "held.json", "person.json", "recorded", "reports", "takes", "takes.csv"],
        )
        described = [line.split()[0] for line in README.split("\n") if line[:1].isalpha() and "  " in line]
        self.assertLessEqual(set(told), set(described))
        handed = next(row for row in told["takes"] if row["handed_in_at"])
        self.assertEqual(handed["remarks"][0]["text"], "Look ahead")
        smf = read_contents(actual.read(f"takes/{handed['file']}.mid"))
        self.assertGreater(len(smf.notes), 3)
        facts_from_json(json.loads(actual.read(f"facts/{handed['file']}.json")))
        self.assertEqual(actual.read(f"reports/{handed['file']}.pdf")[:4], b"%PDF")
        rows = list(csv.DictReader(io.StringIO(actual.read("takes.csv").decode("utf-8-sig"))))
        self.assertEqual([row["file"] for row in rows], [row["file"] for row in told["takes"]])

    def test_the_archive_has_raw_events_removed_takes_copies_files_and_what_was_practised(self) -> None:
        gone = Take.objects.filter(student=self.person, handed_in_at=None).get()
        TakeFile.objects.create(take=gone, name="../../from elsewhere.mid", data=b"MThd")
        factories.allow(self.given, allows_corrected_copies=True)
        open_copy(self.person, Take.objects.get(pk=gone.pk))
        Take.objects.filter(pk=gone.pk).update(deleted_at=timezone.now(), settings={"latency": 3})
        practised(self.person, self.given, bars=(1, 2), seconds=30)
        save_settings(self.person, {"speaks": (1, "beats")})
        write_reset(EMAIL)
        Client().post("/sign-in/", {"username": USERNAME, "password": PASSWORD})
        mine, _ = self.archive(self.person)
        held = json.loads(mine.read("held.json"))
        self.assertEqual([row["passages"] for row in held["practice_days"]], [[[self.given.pk, 1, 2]]])
        self.assertEqual(held["stand_settings"][0]["kept"], {"speaks": [1, "beats"]})
        [deleted] = [row for row in json.loads(mine.read("person.json"))["takes"] if row["deleted_at"]]
        recorded = json.loads(mine.read(f"recorded/{deleted['file']}.json"))
        self.assertEqual((recorded["events"], recorded["settings"]), (gone.events, {}))
        self.assertEqual(mine.read(f"files/{deleted['file']}.mid"), b"MThd")
        [copy] = [name for name in mine.namelist() if name.startswith("copies/")]
        self.assertEqual(mine.read(copy)[:4], b"MThd")
        heads, _ = self.archive(self.head)
        seen = json.loads(heads.read("held.json"))
        self.assertEqual({"practice_days", "stand_settings", "signed_in"} & set(seen), set())
        # A link that lets somebody in is not for who makes the archive.
        self.assertNotIn("body", seen["letters_with_links"][0])
        talk.write_remark(self.teacher, self.take, text="Look ahead", bar=1, beat=None)
        teachers = json.loads(self.archive(self.teacher, of=self.teacher)[0].read("held.json"))
        self.assertEqual(teachers["remarks_written"][0]["text"], "Look ahead")
        self.assertEqual([row["title"] for row in teachers["exercises"]], [self.given.exercise.title])

    def test_what_points_to_a_person_is_in_the_archive_or_said_why_not(self) -> None:
        pointing = {
            (model._meta.label, field.name)
            for model in apps.get_models(include_auto_created=True)
            for field in model._meta.get_fields()
            if field.concrete and field.related_model is User
        }
        archived = {(held.table, held.person) for held in HELD}
        self.assertEqual(archived & set(ELSEWHERE), set())
        self.assertEqual(pointing, archived | set(ELSEWHERE))
        for held in HELD:
            self.assertEqual(
                held.rows(self.person, self.person.school_id), held.rows(self.person, self.person.school_id)
            )

    def test_after_erasing_only_what_a_class_needs_points_to_a_person(self) -> None:
        self.busy_life()
        practised(self.person, self.given, bars=(1, 2), seconds=30)
        rung = Rung(name="all", first_bar=1, last_bar=1)
        RungClimbed.objects.create(
            assignment=self.given, student=self.person, key=rung_key(rung), points=[90]
        )
        Act.everywhere.filter(actor=self.person).update(address="198.51.100.7")
        erase(self.head, self.person)
        left = {
            (model._meta.label, field.name)
            for model in apps.get_models(include_auto_created=True)
            for field in model._meta.get_fields()
            if field.concrete
            and field.related_model is User
            and model._base_manager.filter(**{field.name: self.person}).exists()
        }
        self.assertLessEqual(left, set(KEPT), left - set(KEPT))
        kept = Take.objects.get(pk=self.take.pk)
        self.assertEqual((kept.judgement.measurement.facts, kept.judgement.scores), ({}, {}))
        self.assertFalse(Act.everywhere.filter(actor=self.person).exclude(address=None).exists())
        self.assertIsNotNone(kept.sheet.points)

    def test_ones_own_archive_tells_no_mark_before_it_is_released(self) -> None:
        actual, told = self.archive(self.person)
        self.assertFalse(any(name.startswith("reports/") for name in actual.namelist()))
        self.assertEqual([row["mark"] for row in told["takes"]], [None, None])
        self.client.force_login(self.person)
        asked = self.client.post("/account/everything/")
        factories.work_all()
        self.assertEqual(self.client.get(f"{asked.url}file/").content[:2], b"PK")
        self.client.force_login(self.classmate)
        self.assertEqual(self.client.get(f"{asked.url}file/").status_code, 404)

    def test_takes_go_with_their_term_and_no_others(self) -> None:
        school = self.school_class.school
        Term.objects.create(
            school=school, name="Spring", begins_on=date(2026, 1, 7), ends_on=date(2026, 3, 31)
        )
        old = factories.assignment(factories.exercise(self.teacher), self.school_class)
        old.given_at = timezone.now().replace(year=2026, month=2, day=1)
        old.save()
        factories.handed_in(self.person, old)
        self.assertEqual(due(school, today=date(2030, 1, 1)), [])
        school.keep_months = 6
        school.save()
        [one] = due(school, today=date(2026, 9, 1))
        self.assertEqual((one.goes_on, one.takes), (date(2026, 9, 30), 1))
        self.assertEqual(delete_expired_takes(school, today=date(2026, 9, 29)), 0)
        self.assertEqual(delete_expired_takes(school, today=date(2026, 9, 30)), 1)
        self.assertEqual(Take.objects.filter(assignment=old).count(), 0)
        self.assertEqual(Take.objects.filter(assignment=self.given).count(), 3)
        self.assertTrue(Act.objects.filter(code="retention_done").exists())
        retention(lambda *_: None)
        self.client.force_login(self.head)
        self.assertEqual(self.client.post("/school/terms/", {"keep_months": "0"}).status_code, 422)
        wrong = {"name": "Odd", "begins_on": "2026-05-01", "ends_on": "2026-04-01"}
        page = self.client.post("/school/terms/", wrong)
        self.assertContains(page, "ends after it begins", status_code=422)

    def test_terms_are_those_of_ones_own_school(self) -> None:
        elsewhere = School.objects.create(name="Elsewhere")
        dates = {"name": "Spring", "begins_on": "2026-01-05", "ends_on": "2026-03-27"}
        for form in (
            TermForm(dates, instance=Term(school=elsewhere)),
            RetentionForm({"keep_months": "6"}, instance=elsewhere),
        ):
            self.assertTrue(form.is_valid(), form.errors)
            self.assertRaises(NotAllowed, change_terms, self.head, form)

    def test_months_after(self) -> None:
        for day, months, wanted in (
            (date(2026, 8, 31), 6, date(2027, 2, 28)), (date(2026, 12, 1), 1, date(2027, 1, 1)),
            (date(2028, 1, 31), 1, date(2028, 2, 29)), (date(2026, 1, 15), 24, date(2028, 1, 15)),
        ):  # fmt: skip
            self.assertEqual(months_after(day, months), wanted)
