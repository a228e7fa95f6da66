"""Takes arrive whole and once."""

import json
from dataclasses import replace
from datetime import timedelta
from unittest.mock import patch

from django.http import HttpResponse
from django.test import TestCase
from django.utils import timezone

from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.formats.events import events_from_take
from ear.formats.part_json import part_to_json
from ear.players.robot import Habits, play
from ear.practice.rules import RecordingRules
from ear.reader import ENGLISH
from oido.assignments.services import withdraw
from oido.common.permissions import NotAllowed
from oido.marking.hand_in import TooFewTakes, hand_in
from oido.marking.services import release
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.services import NoMorePasses, delete_note, measure_claimed, receive_pass, receive_take
from oido.takes.tasks import BEFORE_BATCHES, measure_beside
from tests.ear.parts import beat
from tests.oido import factories


class ReceivingTest(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), school_class)

    def setUp(self) -> None:
        self.client.force_login(self.student)

    def body(self, **changes) -> dict:
        new = factories.new_take(self.given)
        return {
            "id": str(new.id),
            "part": new.part_id,
            "source": "midi",
            "device": "Keys",
            "latency_ms": 0,
            "recorded_at": "2026-11-20T18:42:00.000Z",
            "events": [list(e) for e in new.events],
            **changes,
        }

    def send(self, body: object):
        return self.client.post(
            f"/stand/{self.given.pk}/takes/", data=json.dumps(body), content_type="application/json"
        )

    def test_a_take_of_too_many_notes_is_refused_with_the_limit(self) -> None:
        events = [[10.0 * n, 0x90, 60, 80] for n in range(10_001)]
        self.assertContains(self.send(self.body(events=events)), "10,000 notes in a take", status_code=422)
        # The pedal moves as often as it likes.
        pedal = [[0.5 * n, 0xB0, 64, n % 128] for n in range(40_000)]
        self.assertEqual(self.send(self.body(events=pedal)).status_code, 201)

    def test_deleting_a_note_uses_up_no_pass(self) -> None:
        factories.allow(self.given, passes=2)
        take = factories.take(self.student, self.given)
        delete_note(self.student, take, 0)
        receive_pass(self.student, take, factories.new_pass())
        self.assertRaises(NoMorePasses, receive_pass, self.student, take, factories.new_pass())

    def test_a_take_for_a_withdrawn_exercise_is_kept_with_the_student(self) -> None:
        withdraw(self.teacher, self.given, is_withdrawn=True)
        self.assertEqual(self.send(self.body()).status_code, 201)
        self.assertContains(self.waited(), "Your teacher has withdrawn this exercise")
        self.assertNotContains(self.waited(), "hand-in")
        take = Take.objects.get()
        self.assertContains(self.client.get("/"), f"/takes/{take.pk}/")
        self.client.force_login(factories.student())
        self.assertEqual(self.send(self.body()).status_code, 404)

    def waited(self) -> HttpResponse:
        """What the page is told that asks for the list of takes until something has changed."""
        return self.client.get(f"/stand/{self.given.pk}/tray/?waits")

    def test_events_are_stored_unchanged_and_measured_beside(self) -> None:
        body = self.body()
        with patch("oido.takes.services.measured", side_effect=AssertionError("not while its sender waits")):
            response = self.send(body)
        self.assertContains(response, "data-is-measuring", status_code=201)
        take = Take.objects.get()
        self.assertEqual((take.events, take.judgement), (body["events"], None))
        measure_beside.func(str(take.pk))
        take = Take.objects.get()
        self.assertEqual(judged(take).facts.counts.matched, len(take.part.read().notes))
        self.assertContains(self.waited(), 'class="bar-state is-')
        self.assertNotContains(self.waited(), "Listening …")

    def test_a_worker_is_told_once_what_is_stored_is_stored(self) -> None:
        with (
            patch.object(type(measure_beside), "enqueue") as enqueue,
            self.captureOnCommitCallbacks(execute=True),
        ):
            self.send(self.body())
            enqueue.assert_not_called()
        enqueue.assert_called_once_with(str(Take.objects.get().pk))
        self.assertEqual(measure_beside.priority, BEFORE_BATCHES)

    def test_without_a_worker_the_server_measures_for_who_waits(self) -> None:
        self.send(self.body())
        with self.settings(SERVER_MEASURES_AFTER_S=5.0):
            self.assertEqual(self.waited().status_code, 204)
            Take.objects.update(measure_after=timezone.now() - timedelta(seconds=6))
            self.assertContains(self.waited(), 'class="bar-state is-')

    def test_a_take_that_cannot_be_measured_breaks_no_page_and_is_put_off(self) -> None:
        self.send(self.body())
        with (
            patch("oido.takes.services.measured", side_effect=ValueError("a fault")),
            self.assertLogs("oido.takes", "ERROR"),
        ):
            self.assertEqual(self.waited().status_code, 204)
        Take.objects.update(measure_after=timezone.now() + timedelta(minutes=30))
        self.assertContains(self.waited(), "will measure this take later")

    def test_whoever_claims_a_take_first_measures_it(self) -> None:
        self.send(self.body())
        take = Take.objects.get()
        with patch("oido.takes.services.measure_take") as measure:
            measure_claimed(take)
            measure_claimed(take)
            measure_beside.func(str(take.pk))
        self.assertEqual(measure.call_count, 1)

    def test_sent_twice_it_arrives_once(self) -> None:
        body = self.body()
        for _ in range(2):
            self.assertEqual(self.send(body).status_code, 201)
        self.assertEqual(Take.objects.count(), 1)

    def test_another_students_id_is_not_taken_over(self) -> None:
        other = factories.student()
        self.given.school_class.students.add(other)
        new = factories.new_take(self.given)
        receive_take(other, self.given, new)
        with self.assertRaises(NotAllowed):
            receive_take(self.student, self.given, new)

    def test_a_take_of_one_assignment_is_not_sent_to_another(self) -> None:
        new = factories.new_take(self.given)
        receive_take(self.student, self.given, new)
        other = factories.assignment(self.given.exercise, self.given.school_class)
        self.assertRaises(NotAllowed, receive_take, self.student, other, new)

    def test_takes_are_numbered_for_each_student(self) -> None:
        numbers = [factories.take(self.student, self.given).number for _ in range(3)]
        self.assertEqual(numbers, [1, 2, 3])

    def test_wrong_input_is_refused_beside_its_cause_and_nothing_is_stored(self) -> None:
        for field, value in (
            ("id", "seven"),
            ("events", [[0, 0x90, 200, 1]]),
            ("events", "drums"),
            ("events", None),
            ("source", "telepathy"),
            ("latency_ms", 5000),
            ("recorded_at", "yesterday"),
            ("tempo_bpm", 9),
            ("fifths", 8),
            ("pads", {"36": 400}),
            ("pads", [1]),
        ):
            with self.subTest(field=field, value=value):
                response = self.send(self.body(**{field: value}))
                if (field, value) == ("events", None):
                    self.assertEqual(response.status_code, 422)
                else:
                    self.assertIn(field, response.json()["errors"])
        for body in (None, 3, [], "x"):
            self.assertEqual(self.send(body).status_code, 422)
        self.assertFalse(Take.objects.exists())

    def test_a_part_of_another_exercise_is_refused(self) -> None:
        other = factories.exercise(self.teacher)
        self.assertEqual(self.send(self.body(part=other.part_id)).status_code, 403)

    def test_handing_in_another_take_replaces_the_first_until_a_mark_is_out(self) -> None:
        first, second = (factories.take(self.student, self.given) for _ in range(2))
        hand_in(self.student, first)
        hand_in(self.student, second)
        self.assertEqual([t.is_handed_in for t in Take.objects.order_by("number")], [False, True])
        second.refresh_from_db()
        release(self.teacher, second)
        with self.assertRaises(NotAllowed):
            hand_in(self.student, first)

    def test_recording_rules_hold_at_the_stand(self) -> None:
        exercise = self.given.exercise
        exercise.rules = RecordingRules(
            has_click=False, click_level=50, attempts=2, least_takes=2, backing_level=40
        ).to_json()
        exercise.backing = part_to_json(beat())
        exercise.save()
        stand = self.client.get(f"/stand/{self.given.pk}/").context["stand"]
        self.assertEqual(stand["click"], {"on": False, "sound": "tick", "level": 0.5, "divides": 1})
        self.assertEqual(
            (len(stand["backing"]["notes"]), stand["backing"]["level"]), (len(beat().notes), 0.4)
        )
        self.send(self.body())
        first = self.waited()
        self.assertContains(first, "You can record one more take")
        self.assertContains(first, "Record one more take")
        self.assertNotContains(first, "hand-in")
        with self.assertRaises(TooFewTakes):
            hand_in(self.student, Take.objects.get())
        self.send(self.body())
        self.assertContains(self.waited(), "data-no-more-takes")
        self.assertContains(self.send(self.body()), "already recorded", status_code=422)
        self.assertEqual(Take.objects.count(), 2)
        # A take that was stored, sent again because its answer was lost, is no further one.
        again = self.body(id=str(Take.objects.first().pk))
        self.assertEqual(self.send(again).status_code, 201)
        hand_in(self.student, Take.objects.first())

    def test_progress_is_told_against_the_students_own_take_before(self) -> None:
        factories.take(self.student, self.given, habits=Habits(wrong_keys=0.4, spread_ms=8))
        better = factories.take(self.student, self.given, habits=Habits(spread_ms=8))
        self.assertIn("improved_notes", self.kinds(better))
        other = factories.student()
        self.given.school_class.students.add(other)
        theirs = factories.take(other, self.given, habits=Habits(spread_ms=8))
        self.assertNotIn("improved_notes", self.kinds(theirs))

    def test_a_third_take_is_told_of_the_two_before(self) -> None:
        target = self.given.exercise.part.read()
        for wrong in (5, 3, 1):
            notes = [replace(n, pitch=n.pitch + (k < wrong)) for k, n in enumerate(target.notes)]
            played = play(target.with_notes(notes), Habits(), seed=1)
            actual = factories.take(self.student, self.given, events=events_from_take(played))
            self.assertEqual("improved_notes_thrice" in self.kinds(actual), wrong == 1)

    def test_handing_in_anothers_recording_is_told_to_the_teacher(self) -> None:
        first = factories.take(self.student, self.given)
        hand_in(self.student, first)
        other = factories.student()
        self.given.school_class.students.add(other)
        copied = factories.take(other, self.given, events=[tuple(event) for event in first.events])
        self.assertNotIn("same_recording", self.kinds(copied))
        hand_in(other, copied)
        copied = Take.objects.get(pk=copied.pk)
        actual = {f.code: f for f in judged(copied).facts.findings}["same_recording"]
        self.assertIn(self.student.name, render_finding(actual, FOR_TEACHER, ENGLISH))
        self.assertNotIn(self.student.name, render_finding(actual, FOR_STUDENT, ENGLISH))

    def kinds(self, take: Take) -> list[str]:
        return [f.code for f in judged(Take.objects.get(pk=take.pk)).facts.findings]

    def test_the_robot_is_for_demo_schools_only(self) -> None:
        url = f"/stand/{self.given.pk}/robot/?habits=steady&seed=3"
        self.assertEqual(self.client.get(url).status_code, 404)
        with self.settings(IS_DEMO=True):
            first, again = (self.client.get(url).json()["events"] for _ in range(2))
        self.assertEqual(first, again)
        self.assertEqual(len(first), 2 * len(self.given.exercise.part.read().notes))

    def test_typing_keys_have_dynamics_only_with_accents(self) -> None:
        even = [
            [t, status, pitch, 80 if status == 0x90 else 0] for t, status, pitch, _ in self.body()["events"]
        ]
        accented = [[t, s, p, 110 if v and k % 8 == 0 else v] for k, (t, s, p, v) in enumerate(even)]
        for events, is_assessed in ((even, False), (accented, True)):
            self.send(self.body(source="typing", events=events))
            self.waited()
            dynamics = judged(Take.objects.first()).judgement.criterion("dynamics")
            self.assertIs(dynamics.score is not None, is_assessed)
