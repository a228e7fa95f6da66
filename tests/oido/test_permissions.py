"""Who may reach what, as a table; and the services' own guard."""

from datetime import timedelta

from django.test import Client, TestCase
from django.utils import timezone

from ear.judging.judgement import Given
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notes import Kind
from oido.assignments.services import give_exercise
from oido.common.permissions import NotAllowed
from oido.feedback import remarks as talk
from oido.marking import services as marking
from oido.marking.hand_in import hand_in
from oido.marking.remarking import begin
from oido.rubrics.services import make_rubric, share_rubric
from oido.takes import choosing, copies
from oido.takes.services import receive_pass, receive_take
from tests.oido import factories
from tests.oido.factories import PASSWORD

PEOPLE = ("nobody", "student", "classmate", "stranger", "teacher", "colleague")
SIGN_IN = "302 /sign-in/"


class WhoReachesWhatTest(TestCase):
    """student: whose take it is; classmate: same class; stranger: student of another class;
    teacher: of the class; colleague: teacher of the same school, not of the class."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.colleague = factories.teacher(), factories.teacher()
        cls.student, cls.classmate, cls.stranger = (factories.student() for _ in range(3))
        cls.school_class = factories.school_class(
            teachers=[cls.teacher], students=[cls.student, cls.classmate]
        )
        cls.other_class = factories.school_class(teachers=[cls.colleague], students=[cls.stranger])
        cls.exercise = factories.exercise(cls.teacher)
        cls.given = factories.assignment(cls.exercise, cls.school_class)
        cls.tried = factories.take(cls.student, cls.given)
        cls.take = factories.take(cls.student, cls.given)
        hand_in(cls.student, cls.take)
        cls.rubric = make_rubric(
            cls.teacher, name="Shared", kind="keyboard", says=DEFAULT_RUBRICS[Kind.KEYBOARD]
        )
        share_rubric(cls.teacher, cls.rubric, is_shared=True)
        cls.job = begin(cls.teacher, cls.given, cls.rubric.current, with_released=False)

    def client_of(self, who: str) -> Client:
        client = Client()
        if who != "nobody":
            client.force_login(getattr(self, who))
        return client

    def answer(self, who: str, path: str, *, post: bool = False) -> str:
        client = self.client_of(who)
        response = client.post(path) if post else client.get(path)
        code = str(response.status_code)
        return (
            f"302 {response.url.split('?')[0]}"
            if code == "302" and response.url.startswith("/sign-in")
            else code
        )

    def test_pages(self) -> None:
        take, tried, stand = f"/takes/{self.take.pk}/", f"/takes/{self.tried.pk}/", f"/stand/{self.given.pk}/"
        exercise = f"/exercises/{self.exercise.pk}/"
        table = {
            "/": (SIGN_IN, "200", "200", "200", "200", "200"),
            "/exercises/": (SIGN_IN, "403", "403", "403", "200", "200"),
            "/exercises/new/": (SIGN_IN, "403", "403", "403", "200", "200"),
            exercise: (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}part.mid": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}part.musicxml": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}bundle.zip": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}notation/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}rules/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"{exercise}ladder/": (SIGN_IN, "403", "403", "403", "200", "404"),
            # Each teacher of the school has a scale of her own.
            f"{exercise}scale/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{exercise}scale/takes/0/": (SIGN_IN, "403", "403", "403", "200", "200"),
            "/marking/measuring/": (SIGN_IN, "403", "403", "403", "200", "200"),
            "/naming/": (SIGN_IN, "200", "200", "200", "200", "200"),
            "/bench/new/": (SIGN_IN, "403", "403", "403", "200", "200"),
            # A part is changed by its owner alone; the school may look at it.
            f"/bench/{self.exercise.pk}/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"/bench/{self.exercise.pk}/playing/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"/bench/{self.exercise.pk}/notation/": (SIGN_IN, "403", "403", "403", "200", "404"),
            "/classes/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"/assignments/{self.given.pk}/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"/assignments/{self.given.pk}/clear/": (SIGN_IN, "403", "403", "403", "200", "404"),
            "/rubrics/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"/rubrics/{self.rubric.pk}/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{take}try/": (SIGN_IN, "403", "403", "403", "200", "404"),
            "/marking/phrases/": (SIGN_IN, "403", "403", "403", "200", "200"),
            "/marking/": (SIGN_IN, "403", "403", "403", "200", "200"),
            stand: (SIGN_IN, "200", "200", "404", "403", "403"),
            f"{stand}notation/": (SIGN_IN, "200", "200", "404", "403", "403"),
            take: (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}beside/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{take}report.pdf": (SIGN_IN, "404", "404", "404", "302", "404"),
            "/progress/": (SIGN_IN, "200", "200", "200", "403", "403"),
            f"/students/{self.student.pk}/progress/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"/classes/{self.school_class.pk}/progress/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"/remarkings/{self.job.pk}/": (SIGN_IN, "403", "403", "403", "200", "404"),
            f"{take}rows/?from=0": (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}notes/t0/": (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}notation/": (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}take.mid": (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}notes.json": (SIGN_IN, "200", "404", "404", "200", "404"),
            f"{take}mark/timing/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{take}take.wav": (SIGN_IN, "302", "404", "404", "302", "404"),
            # Only where the exercise allows corrected copies.
            f"{take}copy/": (SIGN_IN, "404", "404", "404", "403", "403"),
            f"{stand}tray/": (SIGN_IN, "200", "200", "404", "403", "403"),
            f"{stand}elsewhere/": (SIGN_IN, "200", "200", "404", "403", "403"),
            f"{stand}hand-in/": (SIGN_IN, "200", "200", "404", "403", "403"),
            f"{stand}receipt/": (SIGN_IN, "200", "404", "404", "403", "403"),
            f"{stand}compare/?a={self.take.pk}&b={self.tried.pk}": (
                SIGN_IN,
                "200",
                "404",
                "404",
                "403",
                "403",
            ),
            # What has not been handed in is the student's alone.
            tried: (SIGN_IN, "200", "404", "404", "404", "404"),
        }
        for path, expected in table.items():
            for who, code in zip(PEOPLE, expected, strict=True):
                with self.subTest(path=path, who=who):
                    self.assertEqual(self.answer(who, path), code)

    def test_acts(self) -> None:
        take, stand = f"/takes/{self.take.pk}/", f"/stand/{self.given.pk}/"
        given, rubric = f"/assignments/{self.given.pk}/", f"/rubrics/{self.rubric.pk}/"
        table = {
            f"/exercises/{self.exercise.pk}/give/": (SIGN_IN, "403", "403", "403", "422", "422"),
            f"/bench/{self.exercise.pk}/do/pick/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"/bench/{self.exercise.pk}/undo/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"/bench/{self.exercise.pk}/keep/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"/bench/{self.exercise.pk}/labels/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"/exercises/{self.exercise.pk}/variation/": (SIGN_IN, "403", "403", "403", "302", "302"),
            f"/exercises/{self.exercise.pk}/rules/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"/exercises/{self.exercise.pk}/ladder/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"{stand}takes/": (SIGN_IN, "422", "422", "404", "403", "403"),
            f"{stand}hand-in/": (SIGN_IN, "422", "422", "404", "403", "403"),
            f"{stand}loops/": (SIGN_IN, "422", "422", "404", "403", "403"),
            f"{stand}elsewhere/": (SIGN_IN, "422", "422", "404", "403", "403"),
            "/stand/latency/": (SIGN_IN, "422", "422", "422", "403", "403"),
            f"{take}passes/": (SIGN_IN, "422", "404", "404", "403", "403"),
            f"{take}star/": (SIGN_IN, "302", "404", "404", "403", "403"),
            f"{take}name/": (SIGN_IN, "302", "404", "404", "403", "403"),
            f"{take}bring-back/": (SIGN_IN, "302", "404", "404", "403", "403"),
            # What is handed in stays; without htmx it is said on the Stand.
            f"{take}throw-away/": (SIGN_IN, "302", "404", "404", "403", "403"),
            f"{take}copy/do/quantise/": (SIGN_IN, "404", "404", "404", "403", "403"),
            f"{take}mark/timing/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"{take}remarks/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"{take}accept/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{take}again/": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"{take}help/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{take}mark-again/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{take}measure/": (SIGN_IN, "302", "404", "404", "302", "404"),
            f"{take}kit/": (SIGN_IN, "403", "403", "403", "302", "404"),
            "/rubrics/preview/drums/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"/exercises/{self.exercise.pk}/scale/": (SIGN_IN, "403", "403", "403", "200", "200"),
            f"{take}try/": (SIGN_IN, "403", "403", "403", "422", "404"),
            # Only once the mark is released.
            f"{take}replies/": (SIGN_IN, "422", "404", "404", "422", "404"),
            "/marking/release/": (SIGN_IN, "403", "403", "403", "302", "302"),
            "/marking/phrases/": (SIGN_IN, "403", "403", "403", "422", "422"),
            f"{given}rubric/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{given}bars/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{given}clear/accept/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"{rubric}": (SIGN_IN, "403", "403", "403", "422", "404"),
            f"{rubric}copy/": (SIGN_IN, "403", "403", "403", "302", "302"),
            # What its owner has just stopped sharing, a colleague does not find.
            f"{rubric}share/": (SIGN_IN, "403", "403", "403", "302", "404"),
            f"/remarkings/{self.job.pk}/": (SIGN_IN, "403", "403", "403", "302", "404"),
            "/rubrics/new/drums/": (SIGN_IN, "403", "403", "403", "422", "422"),
        }
        for path, expected in table.items():
            for who, code in zip(PEOPLE, expected, strict=True):
                with self.subTest(path=path, who=who):
                    # What somebody signed out has sent is kept on a page of its own.
                    wanted = "401" if code == SIGN_IN else code
                    self.assertEqual(self.answer(who, path, post=True), wanted)

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
            lambda: choosing.throw_away(self.teacher, self.tried),
            lambda: choosing.throw_away(self.student, self.take),
            lambda: receive_pass(self.classmate, self.tried, factories.new_pass()),
            lambda: receive_pass(self.student, self.take, factories.new_pass()),
            lambda: copies.open_copy(self.student, self.tried),
            lambda: marking.give_score(self.colleague, self.take, "timing", Given(score=1, why="no")),
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
