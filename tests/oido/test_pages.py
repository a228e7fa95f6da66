"""What pages say of takes: states of bars, the class picture, who sees what at home."""

import re
from dataclasses import replace
from html import unescape
from types import SimpleNamespace
from typing import Any
from unittest import mock
from unittest.mock import patch

from django.db import OperationalError
from django.http import HttpResponse
from django.test import Client, RequestFactory, SimpleTestCase, TestCase, override_settings

from ear.assess import assess
from ear.notes import Kind, Take
from ear.players.robot import Habits, play
from oido.common.numbers import whole
from oido.common.refusals import failed
from oido.config.env import BadEnvironment, read_environment
from oido.demo.music import DRUM_PIECES, KEYBOARD_PIECES
from oido.desk.class_picture import ExerciseTrouble, PictureBar, class_picture
from oido.marking.hand_in import hand_in
from oido.marking.services import release
from oido.progress.progress import _best_of
from oido.takes.bar_states import bar_states
from tests.ear.parts import melody
from tests.oido import factories


class BarStatesTest(SimpleTestCase):
    def states(self, take: Take) -> list[str]:
        part = melody(bars=4)
        actual = assess(part, take)
        return [bar.state for bar in bar_states(part, actual.facts, actual.judgement)]

    def test_each_bar_says_what_went_wrong_in_it(self) -> None:
        clean = play(melody(bars=4), Habits(spread_ms=2), seed=1)
        notes = list(clean.notes)
        self.assertEqual(self.states(clean), ["well"] * 4)
        moved = [replace(n, onset_s=n.onset_s + (0.07 if 4 <= k < 8 else 0)) for k, n in enumerate(notes)]
        self.assertEqual(self.states(Take.of(moved)), ["well", "late", "well", "well"])
        wrong = [replace(n, pitch=n.pitch + 1) if k == 9 else n for k, n in enumerate(notes)]
        self.assertEqual(self.states(Take.of(wrong)), ["well", "well", "wrong", "well"])
        self.assertEqual(self.states(Take.of(notes[:12])), ["well", "well", "well", "missed"])


class HomesTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher = factories.teacher()
        cls.students = [factories.student() for _ in range(3)]
        school_class = factories.school_class(teachers=[cls.teacher], students=cls.students)
        cls.given = factories.assignment(factories.exercise(cls.teacher), school_class)
        for student, habits in zip(
            cls.students[:2], (Habits(spread_ms=4), Habits(stop_after_bar=6)), strict=True
        ):
            hand_in(student, factories.take(student, cls.given, habits=habits))

    def test_the_class_picture_shows_students_by_bars(self) -> None:
        picture = class_picture(self.given)
        self.assertEqual(tuple(b.number for b in picture.bars), tuple(range(1, 9)))
        self.assertEqual(sorted(sum(b.shade for b in row.bars) for row in picture.rows), [0, 6])
        self.assertEqual([bar.number for bar in picture.worst], [7, 8])
        # What is tinted is what the figures count.
        tinted = [sum(row.bars[k].shade > 0 for row in picture.rows) for k in range(8)]
        self.assertEqual(tinted, [bar.troubled for bar in picture.bars])

    def test_takes_that_are_handed_in_together_are_one_student_in_the_class_picture(self) -> None:
        given = factories.assignment(self.given.exercise, self.given.school_class)
        factories.allow(given, least_takes=2, handed_in_takes=2)
        student = self.students[2]
        whole, broken_off = (
            factories.take(student, given, habits=habits)
            for habits in (Habits(spread_ms=4), Habits(stop_after_bar=6))
        )
        hand_in(student, whole, broken_off)
        picture = class_picture(given)
        [row] = picture.rows
        self.assertEqual([bar.troubled for bar in picture.bars], [0, 0, 0, 0, 0, 0, 1, 1])
        self.assertEqual((row.bars[7].fault, row.bars[7].take), (0.5, broken_off))

    def test_a_bar_is_tinted_where_one_of_many_has_trouble(self) -> None:
        bars = tuple(PictureBar(number=n, troubled=n) for n in (0, 1, 5, 9))
        trouble = ExerciseTrouble(bars=bars, takes=9, of_older_part=0)
        self.assertEqual([trouble.step(bar) for bar in bars], [0, 1, 3, 4])

    def test_a_number_too_large_to_store_is_none(self) -> None:
        numbers = [whole(text) for text in ("-12", "999999999", "1000000000", "٣", "1.5", "")]
        self.assertEqual(numbers, [-12, 999999999, None, None, None, None])

    def test_the_best_take_has_most_right_and_of_as_many_is_the_steadiest(self) -> None:
        figures = [(90.0, 12.0), (95.0, 30.0), (95.0, 0.0), (95.0, None), (80.0, 2.0)]
        takes = [(n, SimpleNamespace(right_percent=r, spread_ms=s)) for n, (r, s) in enumerate(figures)]
        self.assertEqual(_best_of(takes), 2)

    def test_the_teacher_sees_what_waits(self) -> None:
        self.client.force_login(self.teacher)
        self.assertContains(self.client.get("/"), "2 takes are waiting for you.")
        take = self.given.takes.first()
        release(self.teacher, take)
        self.assertContains(self.client.get("/"), "One take is waiting for you.")
        self.assertContains(self.client.get("/marking/"), "One take is waiting.")

    def test_the_student_sees_what_is_due_and_what_came_back(self) -> None:
        self.client.force_login(self.students[2])
        self.assertContains(self.client.get("/"), "One exercise is due.")
        self.client.force_login(self.students[0])
        self.assertContains(self.client.get("/"), "Nothing is due.")
        self.assertContains(self.client.get("/"), "waiting to be marked")
        release(self.teacher, self.students[0].takes.get())
        self.assertContains(self.client.get("/"), "Concert-ready")

    def test_empty_pages_say_what_to_do(self) -> None:
        self.client.force_login(factories.teacher())
        for path, said in (
            ("/", "Takes appear here as they are handed in."),
            ("/marking/", "Nothing is waiting to be marked."),
            ("/classes/", "You do not teach a class yet."),
        ):
            self.assertContains(self.client.get(path), said)
        self.client.force_login(factories.student())
        self.assertContains(self.client.get("/"), "What your teacher gives you will appear here.")

    def test_everything_comes_from_here(self) -> None:
        self.client.force_login(self.teacher)
        response = self.client.get(f"/exercises/{self.given.exercise_id}/")
        self.assertNotIn(
            "//", response.content.decode().replace("https://", "//").replace("<!--", "").split("<body")[0]
        )
        policy = response.headers["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe-inline", policy)

    def test_a_browser_of_another_language_finds_the_whole_page_in_one_that_is_offered(self) -> None:
        english, spanish = ("en-gb", "This field is required."), ("es", "Este campo es obligatorio.")
        for language, (code, error) in {"de": english, "es-MX, es;q=0.9": spanish, "ar": english}.items():
            with self.subTest(language):
                page = self.client.post(
                    "/sign-in/", {"username": "", "password": ""}, headers={"accept-language": language}
                )
                self.assertContains(page, f'<html lang="{code}">', status_code=page.status_code)
                self.assertContains(page, error, status_code=page.status_code)

    @override_settings(IS_DEMO=True)
    def test_a_demo_school_tells_its_accounts(self) -> None:
        self.assertContains(self.client.get("/sign-in/"), "harbour-lights")


class DemoMusicTest(SimpleTestCase):
    def test_pieces_fill_whole_bars_and_are_played_well_by_a_good_robot(self) -> None:
        for piece in (*KEYBOARD_PIECES, *DRUM_PIECES):
            with self.subTest(piece.title):
                expected = 4 if piece.title == "Steps to the Loft" else 8
                self.assertEqual(len(piece.part.bars), expected + (piece.part.kind is Kind.DRUMS))
                actual = assess(piece.part, play(piece.part, Habits(spread_ms=5, velocity_spread=2), seed=1))
                self.assertGreater(actual.judgement.total, 97)


class EnvironmentTest(SimpleTestCase):
    def test_wrong_variables_are_refused_by_name(self) -> None:
        for name, value in (("OIDO_DEBUG", "maybe"), ("OIDO_DB_PORT", "here"), ("OIDO_SECRET_KEY", "")):
            with patch.dict("os.environ", {name: value}), self.assertRaisesMessage(BadEnvironment, name):
                read_environment()


class RefusalsTest(TestCase):
    """Pages for what is refused or fails: with a way on, and a reference that is in the log."""

    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.client.force_login(self.teacher)
        self.client.raise_request_exception = False

    def refused(
        self, path: str, *, level: str = "INFO", client: Client | None = None, **more: Any
    ) -> HttpResponse:
        with self.assertLogs("oido.common.refusals", level) as logged:
            answer = (client or self.client).get(path, **more)
        [reference] = re.findall(r"quote reference ([0-9A-F]{8})", answer.content.decode())
        self.assertIn(f"reference {reference}", logged.output[0])
        self.assertContains(answer, 'class="masthead"', status_code=answer.status_code)
        return answer

    def test_pages_that_are_missing_or_not_ones_own(self) -> None:
        self.assertContains(self.refused("/nowhere/"), "Go to Today", status_code=404)
        self.assertContains(self.refused("/nowhere/"), self.teacher.name, status_code=404)
        self.assertContains(self.refused("/progress/"), "ask the head", status_code=403)
        self.assertContains(self.refused("/nowhere/", client=Client()), "Sign in", status_code=404)

    def test_an_error_in_the_code_is_logged_under_its_reference_and_reads_nothing(self) -> None:
        with (
            mock.patch("oido.home.views.counted", side_effect=ValueError("a fault")),
            self.assertLogs("django.request"),
        ):
            answer = self.refused("/?x=1", level="ERROR")
        self.assertContains(answer, 'href="/?x=1">Try again', status_code=500)
        request = RequestFactory().get("/")
        with self.assertNumQueries(0), self.assertLogs("oido.common.refusals"):
            failed(request)

    def test_a_database_that_cannot_save_just_now_asks_to_try_again(self) -> None:
        for code in (1213, 1290):
            problem = OperationalError(code, "cannot be done")
            with (
                mock.patch("oido.home.views.counted", side_effect=problem),
                self.assertLogs("django.request"),
            ):
                answer = self.refused("/", level="WARNING")
            self.assertContains(answer, "save anything at the moment", status_code=503)
            self.assertIn("Retry-After", answer)

    def test_a_database_that_is_away_is_said_with_when_to_ask_again(self) -> None:
        away = OperationalError(2002, "Can't connect")
        with mock.patch("oido.home.views.counted", side_effect=away), self.assertLogs("django.request"):
            answer = self.refused("/", level="WARNING")
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "5"))
        self.assertContains(answer, "Oido is restarting", status_code=503)

    def test_a_form_that_could_not_be_saved_is_kept_to_be_sent_again(self) -> None:
        self.client.force_login(self.teacher)
        self.client.raise_request_exception = False
        text = 'Count "aloud" & slowly, {name}.'
        busy = OperationalError(1205, "locked")
        with (
            mock.patch("oido.feedback.remarks.save_phrase", side_effect=busy),
            self.assertLogs("django.request"),
            self.assertLogs("oido.common.refusals"),
        ):
            answer = self.client.post("/marking/phrases/", {"text": text, "csrfmiddlewaretoken": "abc"})
        page = answer.content.decode()
        self.assertEqual(answer.status_code, 503)
        kept = dict(re.findall(r'type="hidden" name="([^"]+)" value="([^"]*)"', page))
        self.assertEqual((unescape(kept["text"]), kept["csrfmiddlewaretoken"]), (text, "abc"))
        self.assertIn('action="/marking/phrases/"', page)
        for secret in ({"old_password": "hush-hush"}, {"code": "hush-hush"}, {"more": "hush-hush" * 20_000}):
            with (
                mock.patch("oido.feedback.remarks.save_phrase", side_effect=busy),
                self.assertLogs("django.request"),
                self.assertLogs("oido.common.refusals"),
            ):
                answer = self.client.post("/marking/phrases/", {"text": "x", **secret})
            self.assertNotContains(answer, "hush-hush", status_code=answer.status_code)

    def test_a_form_with_a_stale_token_says_what_to_do(self) -> None:
        strict = Client(enforce_csrf_checks=True)
        strict.force_login(self.teacher)
        with self.assertLogs("oido.common.refusals", "INFO"), self.assertLogs("django.security.csrf"):
            answer = strict.post("/classes/", {"name": "x"})
        self.assertContains(answer, "This page is out of date", status_code=403)

    def test_pages_are_compressed_and_words_are_kept(self) -> None:
        answer = self.client.get("/", headers={"Accept-Encoding": "gzip"})
        self.assertEqual(answer["Content-Encoding"], "gzip")
        [address] = re.findall(r'src="(/words\.js\?v=\w+)"', self.client.get("/").content.decode())
        self.assertIn("immutable", self.client.get(address)["Cache-Control"])
        self.assertEqual(self.client.get("/words.js")["Cache-Control"], "no-cache")
        self.assertContains(self.client.get("/"), "icon.svg")
