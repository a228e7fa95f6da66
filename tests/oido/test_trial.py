"""A teacher looks at an exercise as a student would: the same Stand, and nothing is stored."""

from django.apps import apps
from django.test import TestCase

from ear.formats.events import events_from_take
from ear.players.robot import Habits, play
from ear.practice.ladder import Ladder, Rung
from ear.practice.proposals import propose_ladder
from oido.assignments.student_terms import trial_terms
from oido.bench import services
from oido.exercises.models import Exercise
from oido.exercises.services import set_ladder
from oido.takes.models import Visit
from tests.ear.parts import melody
from tests.oido import factories

LOOP = {
    "rung": 1, "first_bar": 1, "last_bar": 1, "hand": "", "lanes": [], "bpm": 90, "fifths": 0, "latency_ms": 0,
    "source": "midi", "events": [[0.0, 144, 60, 80], [300.0, 128, 60, 0]],
}  # fmt: skip
STEADY = Habits(spread_ms=4)


class TrialTest(TestCase):
    def setUp(self) -> None:
        self.teacher = factories.teacher()
        self.exercise = factories.exercise(self.teacher, melody(bars=4))
        set_ladder(self.teacher, self.exercise, propose_ladder(melody(bars=4)))
        self.client.force_login(self.teacher)
        self.url = f"/stand/as-student/{self.exercise.pk}/"

    def rows(self) -> dict[str, int]:
        """Of every table but that of sessions, how many rows it has."""
        return {m.__name__: m._base_manager.count() for m in apps.get_models() if m.__name__ != "Session"}

    def test_all_of_the_stand_is_there_and_no_row_of_any_table_is_made(self) -> None:
        before = self.rows()
        page = self.client.get(self.url)
        self.assertContains(page, "nothing is recorded")
        self.assertContains(page, "Practise now")
        for storing in ("data-upload", "data-settings", "data-tray"):
            self.assertNotContains(page, storing)
        for piece in ("music/?width=500", "notation/", "words/", "words.txt?plain"):
            self.assertEqual(self.client.get(self.url + piece).status_code, 200, piece)
        self.assertEqual(self.client.post(f"{self.url}heard/").status_code, 204)
        judged = self.client.post(f"{self.url}loops/", LOOP, content_type="application/json")
        self.assertEqual((judged.status_code, judged.json()["isPassed"]), (200, False))
        self.assertEqual(self.rows(), before)

    def test_a_loop_that_is_too_slow_does_not_count_there_either(self) -> None:
        rung = Rung(name="bar 1", first_bar=1, last_bar=1)
        set_ladder(self.teacher, self.exercise, Ladder(rungs=(rung,)))
        for bpm, row in ((96, 1), (60, 0)):
            events = events_from_take(play(rung.part(melody(bars=4)).at_tempo(bpm), STEADY, seed=2))
            sent = {**LOOP, "bpm": bpm, "events": [list(event) for event in events]}
            answer = self.client.post(f"{self.url}loops/", sent, content_type="application/json").json()
            self.assertEqual((answer["isClean"], answer["row"]), (True, row))

    def test_what_is_played_by_ear_stays_hidden_and_is_heard_as_often_as_one_likes(self) -> None:
        given = factories.assignment(
            self.exercise, factories.school_class(teachers=[self.teacher], students=[factories.student()])
        )
        factories.allow(given, is_by_ear=True, listen_limit=1)
        self.assertNotContains(self.client.get(self.url), 'id="t0"')
        self.assertEqual(self.client.get(f"{self.url}words/").status_code, 404)
        for _again in range(2):
            self.assertEqual(self.client.post(f"{self.url}heard/").status_code, 200)
        self.assertFalse(Visit.objects.exists())

    def test_from_the_bench_one_sees_what_is_not_saved_yet(self) -> None:
        services.open_draft(self.teacher, self.exercise)
        self.client.post(f"/bench/{self.exercise.pk}/do/delete/", {})
        self.client.post(f"/bench/{self.exercise.pk}/do/touch/", {"way": "all"})
        self.client.post(f"/bench/{self.exercise.pk}/do/delete/", {})
        empty = f"/stand/from-bench/{self.exercise.pk}/"
        self.assertNotContains(self.client.get(empty), 'id="t0"')
        self.assertContains(self.client.get(empty), f'href="/bench/{self.exercise.pk}/"')
        self.assertContains(self.client.get(self.url), 'id="t0"')
        self.assertTrue(Exercise.objects.get().part.read().notes)

    def test_the_rules_of_a_trial_are_the_exercises(self) -> None:
        student_terms = trial_terms(self.exercise)
        self.assertTrue(student_terms.is_trial)
        self.assertEqual(student_terms.rules, self.exercise.recording_rules)
