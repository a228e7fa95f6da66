"""Who may reach what: every address asked by everybody, from a table; and the services' own guard."""

from datetime import date, timedelta
from threading import Barrier, Thread
from typing import Any

from django.apps import apps
from django.db import transaction
from django.db.models import Model
from django.http import HttpResponse
from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from ear.formats.smf_writing import write_part
from ear.judging.judgement import TeacherScore
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notes import Kind
from oido.assignments.services import give_booklet, give_exercise
from oido.booklets.bundle import write_booklet
from oido.booklets.services import make_booklet
from oido.common.permissions import NotAllowed
from oido.exercises.models import Exercise
from oido.exercises.services import store_upload
from oido.feedback import remarks as talk
from oido.gradebook.models import Column
from oido.jobs.models import Job
from oido.jobs.schedule import DAILY
from oido.jobs.services import ask_for
from oido.jobs.services import do as do_job
from oido.leaving.erasing import erase
from oido.leaving.models import Term
from oido.marking import services as marking
from oido.marking.hand_in import hand_in
from oido.marking.remarking import begin
from oido.people.models import Membership, Role, School, SchoolManager, User
from oido.people.scope import SchoolNotNamed, Scope, scope, within
from oido.post.models import Email
from oido.roster import joining
from oido.roster import people as roster
from oido.roster.importing import import_list, store_list
from oido.roster.lists import read_text
from oido.rubrics.services import make_rubric, share_rubric
from oido.takes import choosing, copies
from oido.takes.services import receive_pass, receive_take
from tests.ear.parts import melody
from tests.oido import factories
from tests.oido.factories import PASSWORD
from tests.oido.test_endpoints import patterns

SIGN_IN = "/sign-in/"
STAFF = "teacher colleague head"
CLASS = "student classmate"
STUDENTS = "student classmate stranger"
TAKE = "student teacher head"
TEACHERS = "teacher head"
ALL = f"{STUDENTS} {STAFF}"
EVERYBODY = f"nobody {ALL}"
GET, POST, BOTH = ("get",), ("post",), ("get", "post")
REACHES: dict[str, tuple[tuple[str, ...], str, dict[str, Any]]] = {
    # Name of the address: how it is asked, who reaches it, what it is about besides `KEYS`.
    "home": (GET, ALL, {}),
    "naming": (GET, ALL, {}),
    "choose-school": (POST, "teacher", {"pk": "member"}),
    "words": (GET, EVERYBODY, {}),
    "help": (GET, ALL, {}),
    "guide": (GET, ALL, {"slug": "measurement"}),
    "tour-seen": (POST, ALL, {"slug": "stand"}),
    # Where no sign-in service is set up, there is none of these.
    "single-sign-on": (GET, "", {}),
    "single-sign-on-back": (GET, "", {}),
    "job": (GET, "teacher", {"pk": "background"}),
    "job-file": (GET, "", {"pk": "background"}),
    "exercises": (GET, STAFF, {}),
    "new-exercise": (BOTH, STAFF, {}),
    "ready-made": (GET, STAFF, {}),
    "ready-piece": (GET, STAFF, {"name": "morning-gate"}),
    "ready-notation": (GET, STAFF, {"name": "morning-gate"}),
    "add-ready-made": (POST, STAFF, {}),
    "import": (GET, "teacher", {"pk": "upload"}),
    "exercise": (GET, STAFF, {"pk": "exercise"}),
    # The school may look at an exercise; only its owner changes it.
    "rules": (GET, "teacher", {"pk": "exercise"}),
    "rule": (BOTH, "teacher", {"pk": "exercise", "choice": "takes"}),
    "came-of-it": (GET, STAFF, {"pk": "exercise"}),
    "trial-robot": (GET, "", {"pk": "exercise", "way": "as-student"}),
    # Whoever may look at an exercise sees it as a student does.
    **{
        f"trial-{name}": (methods, STAFF, {"pk": "exercise", "way": "as-student"})
        for name, methods in (
            ("stand", GET),
            ("stand-music", GET),
            ("stand-notation", GET),
            ("stand-words", GET),
            ("stand-text", GET),
            ("heard", POST),
            ("loop", POST),
            ("own-pace", POST),
        )
    },
    "ladder": (BOTH, "teacher", {"pk": "exercise"}),
    "variation": (POST, STAFF, {"pk": "exercise"}),
    "notation": (GET, STAFF, {"pk": "exercise"}),
    "export": (GET, STAFF, {"pk": "exercise", "file": "part.mid"}),
    "begin": (BOTH, STAFF, {}),
    "bench": (GET, "teacher", {"pk": "exercise"}),
    "bench-rows": (GET, "teacher", {"pk": "exercise"}),
    "bench-playing": (GET, "teacher", {"pk": "exercise"}),
    "bench-notation": (GET, "teacher", {"pk": "exercise"}),
    "grid": (GET, "teacher", {"pk": "exercise"}),
    "set-labels": (POST, "teacher", {"pk": "exercise"}),
    "keep": (POST, "teacher", {"pk": "exercise"}),
    "versions": (GET, "teacher", {"pk": "exercise"}),
    "bring-back-version": (POST, "teacher", {"pk": "exercise", "number": 1}),
    "discard-begun": (POST, "teacher", {"pk": "begun"}),
    "step": (POST, "teacher", {"pk": "exercise", "way": "undo"}),
    "use-tool": (POST, "teacher", {"pk": "exercise", "slug": "pick"}),
    "rubrics": (GET, STAFF, {}),
    "new-rubric": (BOTH, STAFF, {"kind": "drums"}),
    # Shared in the school: everybody of the staff reads and copies it.
    "rubric": (GET, STAFF, {"pk": "rubric"}),
    "preview-rubric": (POST, STAFF, {"kind": "drums"}),
    "scale": (BOTH, STAFF, {"pk": "exercise"}),
    "scale-take": (GET, STAFF, {"pk": "exercise", "number": 0}),
    "copy-rubric": (POST, STAFF, {"pk": "rubric"}),
    "share-rubric": (POST, "teacher", {"pk": "rubric"}),
    "new-free": (BOTH, STAFF, {}),
    "change-free": (GET, "teacher", {"pk": "improvised"}),
    "copy-exercise": (POST, STAFF, {"pk": "exercise"}),
    # What is somebody else's is said to be so on the next page.
    "act-on-exercises": (POST, STAFF, {"act": "retire"}),
    "give": (BOTH, STAFF, {"pk": "exercise"}),
    "how-given": (BOTH, TEACHERS, {"pk": "given"}),
    "withdraw": (POST, TEACHERS, {"pk": "given", "way": "restore"}),
    "close": (POST, TEACHERS, {"pk": "given", "way": "open"}),
    "arrange": (BOTH, TEACHERS, {"pk": "given", "student": "student"}),
    "remind": (POST, TEACHERS, {"pk": "given"}),
    "watch": (GET, TEACHERS, {"pk": "given"}),
    "undo-marking": (POST, STAFF, {}),
    "take-back-release": (POST, TEACHERS, {"pk": "take"}),
    "gradebook": (GET, TEACHERS, {"pk": "school_class"}),
    "add-column": (POST, TEACHERS, {"pk": "school_class"}),
    "column": (BOTH, TEACHERS, {"pk": "school_class", "key": "own_key"}),
    "cell": (BOTH, TEACHERS, {"pk": "school_class", "key": "own_key", "student": "student"}),
    "gradebook-export": (GET, TEACHERS, {"pk": "school_class", "file": "marks.csv"}),
    "term-reports": (GET, TEACHERS, {"pk": "school_class"}),
    "term-report": (GET, TEACHERS, {"pk": "school_class", "student": "student"}),
    "booklets": (BOTH, STAFF, {}),
    "send-booklet": (POST, STAFF, {}),
    "import-booklet": (GET, "teacher", {"pk": "booklet_upload"}),
    # Shared: the school reads, copies and gives it; its owner and a head change it.
    "booklet": (GET, STAFF, {"pk": "booklet"}),
    "add-to-booklet": (POST, TEACHERS, {"pk": "booklet"}),
    "copy-booklet": (POST, STAFF, {"pk": "booklet"}),
    "booklet-paper": (GET, STAFF, {"pk": "booklet"}),
    "booklet-bundle": (GET, STAFF, {"pk": "booklet"}),
    "booklet-item": (BOTH, TEACHERS, {"pk": "booklet", "number": "booklet_item"}),
    "move-item": (POST, TEACHERS, {"pk": "booklet", "number": "booklet_item", "way": "up"}),
    "delete-booklet": (POST, TEACHERS, {"pk": "booklet", "way": "restore"}),
    "make-set": (BOTH, STAFF, {"pk": "exercise"}),
    "give-booklet": (BOTH, STAFF, {"pk": "booklet"}),
    "given-booklet": (GET, TEACHERS, {"pk": "booklet_assignment"}),
    "heard-as-one": (GET, TEACHERS, {"pk": "booklet_assignment", "student": "student", "ending": "ogg"}),
    "hear-my-booklet": (GET, "", {"pk": "booklet_assignment", "ending": "mid"}),
    "my-booklet": (BOTH, CLASS, {"pk": "booklet_assignment"}),
    "give-like": (POST, TEACHERS, {"pk": "school_class"}),
    "classes": (BOTH, STAFF, {}),
    "take-notes": (GET, TAKE, {"pk": "take"}),
    "take-export": (GET, TAKE, {"pk": "take", "file": "take.mid"}),
    "take": (GET, TAKE, {"pk": "take"}),
    "take-rows": (GET, TAKE, {"pk": "take"}),
    "take-note": (GET, TAKE, {"pk": "take", "name": "t0"}),
    "compare-takes": (GET, TEACHERS, {"pk": "take"}),
    "beside": (GET, TEACHERS, {"pk": "take"}),
    # Of a student only once the mark is released.
    "stand-file": (GET, CLASS, {"pk": "given", "file": "part.mid"}),
    "report-export": (GET, TEACHERS, {"pk": "take", "file": "report.pdf"}),
    "take-notation": (GET, TAKE, {"pk": "take"}),
    "take-words": (GET, TAKE, {"pk": "take"}),
    "change-score": (BOTH, TEACHERS, {"pk": "take", "criterion": "timing"}),
    "agree": (POST, TEACHERS, {"pk": "take"}),
    "measure-again": (POST, TAKE, {"pk": "take"}),
    "give-help": (POST, TEACHERS, {"pk": "take"}),
    "say": (POST, TEACHERS, {"pk": "take"}),
    "place-slip": (POST, TEACHERS, {"pk": "take"}),
    "read-kit": (POST, TEACHERS, {"pk": "take"}),
    "leave-out-copies": (POST, TEACHERS, {"pk": "take"}),
    "try-settings": (BOTH, TEACHERS, {"pk": "take"}),
    "remark": (POST, TEACHERS, {"pk": "take"}),
    # A remark is taken away by whoever wrote it, a phrase is used by whoever saved it.
    "remove-remark": (POST, "teacher", {"pk": "take", "number": "remark"}),
    "phrase": (GET, "teacher", {"pk": "take", "number": "phrase"}),
    "reply": (POST, TAKE, {"pk": "take"}),
    "progress": (GET, STUDENTS, {}),
    "student-progress": (GET, TEACHERS, {"pk": "student"}),
    "class-progress": (GET, TEACHERS, {"pk": "school_class"}),
    "latency": (POST, ALL, {}),
    "stand-settings": (POST, STUDENTS, {}),
    "stand": (GET, CLASS, {"pk": "given"}),
    "stand-notation": (GET, CLASS, {"pk": "given"}),
    "stand-music": (GET, CLASS, {"pk": "given"}),
    "stand-words": (GET, CLASS, {"pk": "given"}),
    "stand-text": (GET, CLASS, {"pk": "given"}),
    "heard": (POST, CLASS, {"pk": "given"}),
    "tray": (GET, CLASS, {"pk": "given"}),
    "upload-take": (POST, CLASS, {"pk": "given"}),
    "loop": (POST, CLASS, {"pk": "given"}),
    "own-pace": (POST, CLASS, {"pk": "given"}),
    "five-minutes": (GET, STUDENTS, {}),
    # There is a robot player in demo schools alone.
    "robot": (GET, "", {"pk": "given"}),
    "elsewhere": (BOTH, CLASS, {"pk": "given"}),
    "elsewhere-file": (GET, "student", {"pk": "given", "upload": "own_upload"}),
    "take-out-hit": (POST, "student", {"pk": "take", "number": 0}),
    "take-on-music": (GET, "student", {"pk": "take"}),
    "name-take": (POST, "student", {"pk": "take"}),
    "star-take": (POST, "student", {"pk": "take"}),
    "throw-away": (POST, "student", {"pk": "take"}),
    "bring-back": (POST, "student", {"pk": "take"}),
    "upload-pass": (POST, "student", {"pk": "take"}),
    "turn-pass": (POST, "student", {"pk": "layered", "number": 2, "way": "back"}),
    "copy": (GET, "student", {"pk": "corrected"}),
    "copy-rows": (GET, "student", {"pk": "corrected"}),
    "copy-playing": (GET, "student", {"pk": "corrected"}),
    "drop-copy": (POST, "student", {"pk": "corrected"}),
    "copy-step": (POST, "student", {"pk": "corrected", "way": "undo"}),
    "copy-tool": (POST, "student", {"pk": "corrected", "slug": "quantise"}),
    "hand-in": (BOTH, CLASS, {"pk": "given"}),
    "receipt": (GET, "student", {"pk": "given"}),
    "compare": (GET, "student", {"pk": "given"}),
    "marking": (GET, STAFF, {}),
    "release-accepted": (POST, STAFF, {}),
    "phrases": (BOTH, STAFF, {}),
    "assignment": (GET, TEACHERS, {"pk": "given"}),
    "try-rubric": (POST, TEACHERS, {"pk": "given"}),
    "exercise-of-bars": (POST, TEACHERS, {"pk": "given"}),
    "remarking": (BOTH, TEACHERS, {"pk": "remarking"}),
    "clear-cases": (GET, TEACHERS, {"pk": "given"}),
    "accept-clear": (POST, TEACHERS, {"pk": "given"}),
    "remeasuring": (GET, STAFF, {}),
    "accept": (POST, TEACHERS, {"pk": "take"}),
    "ask-again": (POST, TEACHERS, {"pk": "take"}),
    # Everybody's own account.
    "account": (BOTH, ALL, {}),
    "confirm-email": (BOTH, EVERYBODY, {"token": "none"}),
    "change-password": (BOTH, ALL, {}),
    "end-session": (POST, "", {"pk": 0}),
    "end-sessions": (POST, ALL, {}),
    "set-up-second-factor": (BOTH, STAFF, {}),
    "drop-second-factor": (BOTH, ALL, {}),
    # Nobody is half in: they are asked to sign in.
    "second-factor": (BOTH, ALL, {}),
    "slip": (BOTH, EVERYBODY, {}),
    "slip-by-picture": (GET, EVERYBODY, {"code": "AAAA-BBBB-CCCC"}),
    "choose-password": (BOTH, EVERYBODY, {}),
    "ask-reset": (BOTH, EVERYBODY, {}),
    "reset-password": (BOTH, EVERYBODY, {"uid": "MQ", "token": "c1-0"}),
    "enter-code": (BOTH, EVERYBODY, {}),
    "join-class": (GET, EVERYBODY, {"code": "code"}),
    "invitation": (BOTH, EVERYBODY, {"token": "none"}),
    # The school is its head's; teachers look after the students of their own classes.
    "school": (BOTH, "head", {}),
    "trail": (GET, "head", {}),
    "trail-csv": (GET, "head", {}),
    "outbox": (GET, "head", {}),
    "send-again": (POST, "head", {"pk": "letter"}),
    "people": (GET, STAFF, {}),
    "add-person": (BOTH, STAFF, {}),
    "send-list": (BOTH, STAFF, {}),
    "list": (GET, "head", {"pk": "list"}),
    "undo-list": (POST, "head", {"pk": "list"}),
    "person": (BOTH, TEACHERS, {"pk": "student"}),
    "set-role": (POST, "head", {"pk": "student"}),
    "leave-school": (POST, "head", {"pk": "student"}),
    "return-to-school": (POST, "head", {"pk": "gone"}),
    "drop-their-second-factor": (POST, "head", {"pk": "colleague"}),
    "person-slip": (POST, TEACHERS, {"pk": "student"}),
    "join-class-by-hand": (POST, TEACHERS, {"pk": "student"}),
    "leave-class": (POST, TEACHERS, {"pk": "student"}),
    "withdraw-invitation": (POST, "head", {"pk": "invited"}),
    "class-slips": (POST, TEACHERS, {"pk": "school_class"}),
    "class": (GET, TEACHERS, {"pk": "school_class"}),
    "rename-class": (POST, TEACHERS, {"pk": "school_class"}),
    "forward-class": (POST, TEACHERS, {"pk": "school_class"}),
    "archive-class": (POST, TEACHERS, {"pk": "school_class"}),
    "add-teacher": (POST, TEACHERS, {"pk": "school_class"}),
    "move-class": (POST, TEACHERS, {"pk": "school_class", "way": "up"}),
    "open-code": (POST, TEACHERS, {"pk": "school_class"}),
    "close-code": (POST, TEACHERS, {"pk": "school_class"}),
    # Gone once there is a school.
    "set-up": (BOTH, "", {}),
    "first-steps": (GET, STAFF, {}),
    "dismiss-step": (POST, STAFF, {}),
    "export-own": (POST, ALL, {}),
    "export-person": (POST, "head", {"pk": "student"}),
    "erase-person": (BOTH, "head", {"pk": "student"}),
    "erasure": (GET, "head", {"receipt": "receipt"}),
    "terms": (BOTH, "head", {}),
    "delete-term": (POST, "head", {"pk": "term"}),
}
WITHOUT_A_LINE = {"sign-in", "sign-out", "style", "offline", "offline-worker"}
"""Anybody’s: signing in and out; what a browser keeps for when it is offline; the page of components, which is there only where debugging is on."""
QUERIES = {"compare": "a={take}&b={tried}", "take-rows": "from=0"}
BODIES = dict.fromkeys(("join-class-by-hand", "leave-class"), ("class", "school_class")) | {
    "add-teacher": ("person", "colleague")
}


class Scene:
    """A school in which every address leads somewhere. student: whose take it is; classmate: same class; stranger: student
    of another class; teacher: of the class; colleague: teacher of the school, not of the class; head: of the school."""

    @classmethod
    def fill(cls) -> None:
        """Make it, as attributes of the class."""
        cls.teacher, cls.colleague, cls.head = factories.teacher(), factories.teacher(), factories.head()
        cls.student, cls.classmate, cls.stranger = (factories.student() for _ in range(3))
        cls.school_class = factories.school_class(
            teachers=[cls.teacher], students=[cls.student, cls.classmate]
        )
        cls.other_class = factories.school_class(teachers=[cls.colleague], students=[cls.stranger])
        cls.exercise = factories.exercise(cls.teacher)
        cls.given = factories.assignment(cls.exercise, cls.school_class)
        cls.booklet = make_booklet(cls.teacher, title="Week by week", exercises=[cls.exercise])
        cls.booklet_item = cls.booklet.items.get()
        cls.booklet_assignment = give_booklet(
            cls.teacher, cls.booklet, cls.school_class, due_at=timezone.now() + timedelta(days=9)
        )
        cls.booklet_upload = store_upload(cls.teacher, "b.zip", write_booklet(cls.booklet))
        cls.own_column = Column.objects.create(
            school=cls.school_class.school,
            school_class=cls.school_class,
            name="Concert",
            on=date(2026, 11, 1),
        )
        cls.own_key = f"c{cls.own_column.pk}"
        cls.improvised = factories.free_exercise(cls.teacher)
        cls.begun = factories.exercise(cls.teacher)
        Exercise.objects.filter(pk=cls.begun.pk).update(is_begun=True)
        factories.allow(cls.given, passes=3, allows_corrected_copies=True)
        cls.layered, cls.corrected = (factories.take(cls.student, cls.given) for _ in range(2))
        receive_pass(cls.student, cls.layered, factories.new_pass())
        copies.open_copy(cls.student, cls.corrected)
        cls.tried = factories.take(cls.student, cls.given)
        cls.take = factories.take(cls.student, cls.given)
        hand_in(cls.student, cls.take)
        cls.rubric = make_rubric(
            cls.teacher, name="Shared", kind="keyboard", says=DEFAULT_RUBRICS[Kind.KEYBOARD]
        )
        share_rubric(cls.teacher, cls.rubric, is_shared=True)
        cls.remarking = begin(cls.teacher, cls.given, cls.rubric.current, with_released=False)
        cls.upload = store_upload(cls.teacher, "a.mid", write_part(melody()))
        cls.own_upload = store_upload(cls.student, "a.mid", write_part(melody()))
        cls.phrase = talk.save_phrase(cls.teacher, "{name}, look ahead.")
        cls.remark = talk.write_remark(cls.teacher, cls.take, text="Well done", bar=None, beat=None)
        cls.background = ask_for("test", owner=cls.teacher)
        cls.member = cls.teacher.membership
        cls.gone = factories.student()
        roster.leave_school(cls.head, cls.gone)
        cls.list = store_list(cls.head, read_text("Ada Keel"), file_name="", school_class=None)
        import_list(cls.head, cls.list, {})
        cls.invited = joining.invite(cls.head, email="new@school.example", role=Role.TEACHER)
        cls.letter = Email.objects.get()
        cls.receipt = erase(cls.head, factories.student()).receipt
        cls.term = Term.objects.create(
            school=cls.school_class.school,
            name="Autumn",
            begins_on=date(2026, 9, 1),
            ends_on=date(2026, 12, 20),
        )
        cls.code = joining.open_code(
            cls.teacher, cls.school_class, ends_at=timezone.now() + timedelta(days=3)
        ).code
        elsewhere = School.objects.create(name="Another school")
        cls.elsewhere = {
            "head elsewhere": factories.head(at=elsewhere),
            "teacher elsewhere": factories.teacher(at=elsewhere),
            "student elsewhere": factories.student(at=elsewhere),
        }
        factories.school_class(
            teachers=[cls.elsewhere["teacher elsewhere"]], students=[cls.elsewhere["student elsewhere"]]
        )

    def path(self, name: str, about: dict[str, Any]) -> str:
        keys = {}
        for key, value in about.items():
            actual = getattr(self, str(value), value)
            keys[key] = actual.pk if isinstance(actual, Model) else actual
        query = QUERIES.get(name, "").format(take=self.take.pk, tried=self.tried.pk)
        return reverse(name, kwargs=keys) + (f"?{query}" if query else "")


class WhoReachesWhatTest(Scene, TestCase):
    """Every address, asked by everybody."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.fill()

    def people(self) -> dict[str, User | None]:
        return {"nobody": None, **{who: getattr(self, who) for who in ALL.split()}, **self.elsewhere}

    def asked(self, who: User | None, method: str, path: str, name: str = "") -> HttpResponse:
        """The answer, with nothing changed by it."""
        client = Client()
        field, about = BODIES.get(name, ("", ""))
        body = {field: getattr(self, about).pk} if field else {}
        # As in the running application, where nothing names a school but the request itself.
        with transaction.atomic():
            if who is not None:
                client.force_login(who)
            with within(Scope.UNNAMED):
                answer = getattr(client, method)(path, body)
            transaction.set_rollback(True)
        return answer

    def is_reached(self, answer: HttpResponse, *, who: str, path: str) -> bool:
        self.assertLess(answer.status_code, 500)
        self.assertNotEqual(answer.status_code, 405, f"{path} is asked in another way")
        if answer.status_code == 401 or getattr(answer, "url", "").startswith(SIGN_IN):
            return who != "nobody"
        return answer.status_code not in (403, 404)

    def test_every_address_has_a_line(self) -> None:
        names = {pattern.name for _, pattern in patterns()}
        self.assertEqual(names - WITHOUT_A_LINE, set(REACHES))

    def test_every_address_is_reached_by_those_in_its_line_and_nobody_else(self) -> None:
        wrong = []
        for name, (methods, reached_by, about) in REACHES.items():
            path = self.path(name, about)
            is_of_this_school = any(
                isinstance(getattr(self, str(key), None), Model) or key == "receipt" for key in about.values()
            )
            for method in methods:
                for who, person in self.people().items():
                    role, _, is_elsewhere = who.partition(" ")
                    expected = role in reached_by.split() and not (is_elsewhere and is_of_this_school)
                    actual = self.is_reached(self.asked(person, method, path, name), who=who, path=path)
                    if actual != expected:
                        wrong.append(
                            f"{method} {path} ({name}): {who} {'reaches' if actual else 'does not reach'} it"
                        )
        self.assertEqual(wrong, [])

    def test_what_has_not_been_handed_in_is_the_students_alone(self) -> None:
        for who, person in self.people().items():
            for path in (f"/takes/{self.tried.pk}/", f"/takes/{self.tried.pk}/take.mid"):
                with self.subTest(who=who, path=path):
                    actual = self.is_reached(self.asked(person, "get", path), who=who, path=path)
                    self.assertEqual(actual, who == "student")

    def test_one_person_in_two_schools_is_in_one_at_a_time(self) -> None:
        """A teacher here who is a student elsewhere: chosen by the session, and nothing of the other is in reach."""
        elsewhere = School.objects.get(name="Another school")
        learns = Membership.objects.create(school=elsewhere, person=self.teacher, role=Role.STUDENT)
        client = Client()
        client.force_login(self.teacher)
        take = f"/takes/{self.take.pk}/"
        client.post(f"/schools/{self.teacher.membership.pk}/")
        self.assertEqual([client.get(url).status_code for url in (take, "/classes/")], [200, 200])
        client.post(f"/schools/{learns.pk}/")
        self.assertEqual(
            [client.get(url).status_code for url in (take, "/classes/", "/progress/")], [404, 403, 200]
        )
        self.assertEqual(client.post(f"/schools/{self.head.membership.pk}/").status_code, 404)
        Membership.objects.filter(person=self.teacher).update(left_at=timezone.now())
        self.assertContains(client.get("/"), "not in a school", status_code=403)

    def test_root_rows_are_found_in_their_school_alone_and_nowhere_without_one(self) -> None:
        elsewhere = School.objects.get(name="Another school")
        models = [
            model
            for model in apps.get_models()
            if any(isinstance(manager, SchoolManager) for manager in model._meta.managers)
        ]
        self.assertGreater(len(models), 18)
        for model in models:
            with self.subTest(model=model.__name__):
                self.assertIsInstance(model._default_manager, SchoolManager)
                everywhere = model.objects.exclude(school=None).count()
                with self.teacher.school.within():
                    here = model.objects.count()
                with elsewhere.within():
                    there = model.objects.count()
                with within(Scope.NOWHERE):
                    self.assertEqual(model.objects.count(), 0)
                with within(Scope.UNNAMED):
                    self.assertRaises(SchoolNotNamed, model.objects.count)
                    self.assertEqual(model.objects.none().count(), 0)
                self.assertEqual(here + there, everywhere)
                self.assertEqual(everywhere > 0, here > 0)

    def test_every_row_of_a_school_has_the_scoped_manager(self) -> None:
        for model in apps.get_models():
            belongs = any(field.name == "school" for field in model._meta.get_fields() if field.concrete)
            if belongs and model._meta.app_config.name.startswith("oido."):
                self.assertIsInstance(model._default_manager, SchoolManager, model.__name__)

    def test_no_school_is_named_by_default(self) -> None:
        actual: list[object] = []
        thread = Thread(target=lambda: actual.append(scope()))
        thread.start()
        thread.join()
        self.assertEqual(actual, [Scope.UNNAMED])

    def test_what_is_done_daily_names_its_schools(self) -> None:
        for kind in DAILY:
            with self.subTest(kind=kind):
                job = ask_for(kind)
                do_job(str(job.pk))
                job.refresh_from_db()
                self.assertEqual(job.state, Job.State.DONE)

    def test_two_threads_are_in_two_schools(self) -> None:
        actual: dict[str, object] = {}
        both = Barrier(2)

        def look(name: str, key: int) -> None:
            with within(key):
                both.wait(5)
                actual[name] = scope()
                both.wait(5)

        threads = [Thread(target=look, args=(name, key)) for name, key in (("one", 1), ("two", 2))]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual((actual, scope()), ({"one": 1, "two": 2}, Scope.EVERYWHERE))

    def test_services_guard_themselves(self) -> None:
        due = timezone.now() + timedelta(days=1)
        for refused in (
            lambda: give_exercise(self.colleague, self.exercise, self.school_class, due_at=due),
            lambda: give_exercise(self.student, self.exercise, self.school_class, due_at=due),
            lambda: receive_take(self.stranger, self.given, factories.new_take(self.given)),
            lambda: receive_take(self.teacher, self.given, factories.new_take(self.given)),
            lambda: hand_in(self.classmate, self.take),
            lambda: hand_in(self.student, self.take, self.tried),
            lambda: choosing.star_take(self.classmate, self.take, is_starred=True),
            lambda: choosing.delete_take(self.teacher, self.tried),
            lambda: choosing.delete_take(self.student, self.take),
            lambda: receive_pass(self.classmate, self.tried, factories.new_pass()),
            lambda: receive_pass(self.student, self.take, factories.new_pass()),
            lambda: copies.open_copy(self.classmate, self.tried),
            lambda: marking.give_score(self.colleague, self.take, "timing", TeacherScore(score=1, why="no")),
            lambda: talk.write_remark(self.student, self.take, text="Well done me", bar=None, beat=None),
            lambda: marking.release(self.colleague, self.take),
            lambda: marking.release(self.teacher, self.tried),
        ):
            with self.assertRaises(NotAllowed):
                refused()

    def test_a_student_signs_in_and_out(self) -> None:
        client = Client()
        signed = client.post("/sign-in/", {"username": self.student.username, "password": PASSWORD})
        self.assertEqual(signed.url, "/")
        client.post("/sign-out/")
        self.assertEqual(client.get("/").status_code, 302)
