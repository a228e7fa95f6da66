"""What a student is to do besides playing what is written: improvise, play by ear, listen first, answer questions."""

import uuid
from datetime import timedelta
from threading import Barrier

from django.db import connection
from django.test import Client, TestCase, TransactionTestCase, override_settings
from django.utils import timezone

from ear.formats.events import events_from_take
from ear.free.exercise import FreeSpec
from ear.free.improvising import improvised
from ear.judging.judgement import TeacherScore
from ear.players.robot import Habits, play
from ear.practice.rules import RecordingRules
from oido.assignments.models import Assignment
from oido.assignments.queries import counted
from oido.assignments.student_terms import get_student_terms
from oido.desk.class_picture import class_picture
from oido.exercises.models import Exercise, PartSound, Task
from oido.gradebook.book import book_of
from oido.marking import services as marking
from oido.marking.hand_in import TooLate, hand_in
from oido.marking.models import MarkSheet
from oido.progress.progress import measured_takes
from oido.takes.hearing import HeardEnough, hear
from oido.takes.judging import judged
from oido.takes.models import HandIn, Take, Visit
from tests.oido import factories

FORM = {
    "title": "Over the harbour beat", "kind": "keyboard", "level": "building", "instructions": "", "meter": "4/4",
    "tempo_bpm": "90", "bars": "8", "count_in_bars": "1", "has_click": "on", "grid_ticks": "240", "swing": "1",
    "pitches": "chords", "chords": "Am | F | C G | E7", "tonic": "A", "mode": "natural minor", "least_a_bar": "2",
    "most_a_bar": "", "backing": "straight eighths", "handed_in_takes": "1",
}  # fmt: skip


def line(exercise: Exercise, seed: int, **habits) -> list:
    page, spec = exercise.part_in_force.read(), exercise.part_in_force.spec
    return events_from_take(
        play(improvised(spec.exercise(page), page, seed=seed), Habits(**habits), seed=seed)
    )


class TaskTest(TestCase):
    def setUp(self) -> None:
        self.teacher, self.student, self.other = factories.teacher(), factories.student(), factories.student()
        self.school_class = factories.school_class(
            teachers=[self.teacher], students=[self.student, self.other]
        )
        self.client.force_login(self.teacher)
        self.pupil = Client()
        self.pupil.force_login(self.student)

    def free(self, **more) -> Assignment:
        answer = self.client.post("/exercises/free/", {**FORM, **more})
        self.assertEqual(answer.status_code, 302, answer.content[:3000] if answer.status_code != 302 else "")
        made = Exercise.objects.get()
        return factories.assignment(made, self.school_class)

    def with_rules(self, **rules) -> Assignment:
        given = factories.assignment(factories.exercise(self.teacher), self.school_class)
        factories.allow(given, **rules)
        exercise = given.exercise
        exercise.task = exercise.current_task
        exercise.save()
        return Assignment.objects.get(pk=given.pk)


class FreeTest(TaskTest):
    def test_three_lines_over_a_beat_from_the_form_to_the_mark(self) -> None:
        given = self.free(handed_in_takes="3")
        exercise = given.exercise
        self.assertEqual((exercise.task, exercise.bars, len(exercise.part.read().notes)), (Task.FREE, 8, 0))
        self.assertTrue(exercise.backing and exercise.is_assignable)
        page = self.pupil.get(f"/stand/{given.pk}/")
        for said in (
            "Play at least 2 notes in each bar. Place them on quavers. Choose them from the chord above the music.",
            "Am",
            "E7",
        ):
            self.assertContains(page, said)
        takes = [
            factories.take(self.student, given, part=exercise.part, events=line(exercise, n, spread_ms=10))
            for n in range(3)
        ]
        hand_in(self.student, *takes)
        [counts] = counted(Assignment.objects.filter(pk=given.pk))
        # One student, whose three takes wait.
        self.assertEqual((counts.handed_in, counts.waiting), (1, 3))
        for take in Take.objects.filter(handed_in_at__isnull=False):
            actual = judged(take)
            self.assertGreater(actual.judgement.total, 90)
            self.assertEqual(len(take.target().notes), actual.facts.target.notes)
            report = self.client.get(f"/takes/{take.pk}/")
            self.assertContains(report, "notes inside the set")
            for url in ("notation/", "rows/?from=0", "notes.json", "notes/t0/"):
                self.assertEqual(self.client.get(f"/takes/{take.pk}/{url}").status_code, 200, url)
        picture = class_picture(given)
        self.assertEqual([len(row.bars) for row in picture.rows], [8])
        self.assertEqual(self.client.get(f"/assignments/{given.pk}/").status_code, 200)
        self.assertContains(self.pupil.get(f"/stand/{given.pk}/"), 'id="takes"')

    def test_notes_outside_and_empty_bars_are_told(self) -> None:
        given = self.free()
        events = [
            (t, status, 61 if status & 0xF0 == 0x90 and t < 4000 else a, b)
            for t, status, a, b in line(given.exercise, 1)
        ]
        take = factories.handed_in(
            self.student, given, part=given.exercise.part, events=[e for e in events if e[0] < 10_000]
        )
        codes = {one.finding.code for one in judged(take).judgement.faults}
        self.assertLessEqual({"outside_set", "bars_empty"}, codes)

    def test_what_is_asked_is_changed_and_old_takes_stay_as_they_were(self) -> None:
        given = self.free()
        take = factories.handed_in(
            self.student, given, part=given.exercise.part, events=line(given.exercise, 2)
        )
        before = judged(take).judgement.total
        url = f"/exercises/{given.exercise_id}/free/"
        self.assertContains(self.client.get(url), "Am | F | C G | E7")
        sent = {**FORM, "pitches": "scale", "tonic": "Db", "mode": "major", "backing": "kept", "bars": "4"}
        sent.pop("kind")
        self.assertEqual(self.client.post(url, sent).status_code, 302)
        exercise = Exercise.objects.get()
        self.assertEqual((exercise.bars, exercise.part.spec.scale, exercise.fifths), (4, "Db major", -5))
        self.assertIsNotNone(exercise.backing)
        again = Take.objects.get(pk=take.pk)
        self.assertEqual((judged(again).judgement.total, again.free().bars), (before, 8))
        self.client.force_login(factories.teacher())
        self.assertEqual(self.client.post(url, sent).status_code, 404)

    def test_what_is_wrong_is_said_beside_it_and_nothing_is_lost(self) -> None:
        for changed, field in (
            ({"chords": "Am | Xq"}, "id_chords"), ({"chords": ""}, "id_chords"), ({"bars": "0"}, "id_bars"),
            ({"swing": "99"}, "id_swing"), ({"least_a_bar": "9", "most_a_bar": "2"}, "id_"),
            ({"backing": "six-eight"}, "id_backing"), ({"pitches": "scale", "tonic": "H"}, "id_tonic"),
            ({"tempo_bpm": "x"}, "id_tempo_bpm"),
        ):  # fmt: skip
            answer = self.client.post("/exercises/free/", {**FORM, **changed})
            self.assertContains(answer, f'id="{field}', status_code=422)
            self.assertContains(answer, "_error", status_code=422)
            self.assertContains(answer, FORM["title"], status_code=422)
        self.assertFalse(Exercise.objects.exists())

    def test_a_copy_a_variation_and_another_tempo_stay_free(self) -> None:
        exercise = self.free().exercise
        self.client.post(f"/exercises/{exercise.pk}/copy/")
        made = Exercise.objects.exclude(pk=exercise.pk).get()
        self.assertEqual((made.part.spec, made.task), (exercise.part.spec, Task.FREE))
        page = self.client.get(f"/exercises/{exercise.pk}/")
        self.assertContains(page, "Change the task")
        self.assertNotContains(page, f"/bench/{exercise.pk}/")
        self.assertNotContains(page, f"/exercises/{exercise.pk}/variation/")
        self.assertEqual(self.client.get(f"/bench/{exercise.pk}/").status_code, 404)

    def test_its_bars_are_practised_in_loops_and_climbed(self) -> None:
        given = self.free()
        url = f"/exercises/{given.exercise_id}/ladder/"
        proposed = self.client.post(url, {"act": "propose"})
        self.assertNotContains(self.client.post(url, {"act": "open-0"}), "rung-own_pace")
        self.client.post(url, {"act": "save", "draft": proposed.context["draft"].to_text()})
        self.assertContains(self.pupil.get(f"/stand/{given.pk}/"), 'data-rung="1"')
        # Bars 5 and 6 have the chords of bars 1 and 2 again; a loop is told as a take of just these bars.
        played = [event for event in line(given.exercise, 3, spread_ms=5) if event[0] < 2 * 60_000 / 90 * 4]
        sent = {
            "bpm": 90, "fifths": 0, "latency_ms": 0, "source": "midi", "first_bar": 5, "last_bar": 6,
        }  # fmt: skip

        def points(events: list) -> float:
            answer = self.pupil.post(
                f"/stand/{given.pk}/loops/", {**sent, "events": events}, content_type="application/json"
            )
            self.assertEqual(answer.status_code, 200, answer.content[:200])
            return answer.json()["points"]

        right = points(played)
        outside = [[t, status, a + 1, b] for t, status, a, b in played]
        self.assertGreater(right, 90)
        self.assertLess(points(outside), right - 15)
        self.assertEqual(points([]), 0)
        pace = {"fifths": 0, "first_bar": 1, "last_bar": 1, "events": []}
        answer = self.pupil.post(f"/stand/{given.pk}/own-pace/", pace, content_type="application/json")
        self.assertEqual(answer.status_code, 422)

    def test_an_empty_take_is_told_as_such(self) -> None:
        given = self.free()
        take = factories.handed_in(self.student, given, part=given.exercise.part, events=[])
        self.assertEqual(judged(take).judgement.total, 0)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "The take is empty.")


class ByEarTest(TaskTest):
    @override_settings(IS_DEMO=True)
    def test_nothing_shows_the_notes_until_it_is_handed_in(self) -> None:
        given = self.with_rules(is_by_ear=True)
        take = factories.take(self.student, given)
        page = self.pupil.get(f"/stand/{given.pk}/")
        self.assertContains(page, "not shown until a take is handed in")
        self.assertEqual(page.context["stand"]["target"], [])
        self.assertEqual(page.context["stand"]["voices"], [])
        self.assertNotContains(page, 'class="head')
        notes = self.pupil.get(f"/takes/{take.pk}/notes.json").json()
        self.assertEqual((notes["target"], len(notes["take"]) > 0), ([], True))
        for url in (
            f"/stand/{given.pk}/notation/",
            f"/stand/{given.pk}/robot/",
            f"/takes/{take.pk}/rows/?from=0",
            f"/takes/{take.pk}/notation/",
        ):
            self.assertEqual(self.pupil.get(url).status_code, 404, url)
        self.assertNotContains(page, "data-robot-habits")
        self.assertNotContains(self.pupil.get(f"/stand/{given.pk}/tray/"), "bar-state is-")
        hand_in(self.student, take)
        self.assertGreater(len(self.pupil.get(f"/stand/{given.pk}/").context["stand"]["target"]), 0)
        self.assertEqual(self.pupil.get(f"/stand/{given.pk}/robot/").status_code, 200)
        self.assertEqual(self.pupil.get(f"/takes/{take.pk}/rows/?from=0").status_code, 200)
        later = factories.take(self.student, given)
        self.assertRaises(TooLate, hand_in, self.student, later)

    def test_it_is_heard_as_sound_and_as_often_as_allowed(self) -> None:
        given = self.with_rules(is_by_ear=True, listen_limit=2)
        url = f"/stand/{given.pk}/heard/"
        first = self.pupil.post(url)
        self.assertEqual(
            (first.status_code, first["Content-Type"], first["X-Hears-Left"]), (200, "audio/ogg", "1")
        )
        self.assertEqual(first.content[:4], b"OggS")
        self.assertEqual([self.pupil.post(url).status_code for _ in range(2)], [200, 422])
        self.assertEqual(PartSound.objects.count(), 1)
        self.assertEqual(self.pupil.get(f"/stand/{given.pk}/").context["stand"]["byEar"]["left"], 0)
        other = Client()
        other.force_login(self.other)
        self.assertEqual(other.post(url).status_code, 200)

    def test_a_hearing_that_is_fetched_again_since_it_never_sounded_counts_once(self) -> None:
        given = self.with_rules(is_by_ear=True, listen_limit=2)
        url = f"/stand/{given.pk}/heard/"
        first, second = str(uuid.uuid4()), str(uuid.uuid4())
        left = [
            self.pupil.post(url, {"hearing": one})["X-Hears-Left"] for one in (first, first, second, second)
        ]
        self.assertEqual(left, ["1", "1", "0", "0"])
        # The last one may be fetched again, an earlier one is another hearing; and none for ever.
        self.assertEqual(self.pupil.post(url, {"hearing": first}).status_code, 422)
        Visit.objects.update(hearing_at=timezone.now() - timedelta(hours=1))
        self.assertEqual(self.pupil.post(url, {"hearing": second}).status_code, 422)
        self.assertEqual(self.pupil.post(url, {"hearing": "x"}).status_code, 422)

    def test_what_is_to_be_heard_first_is_known_to_be_heard(self) -> None:
        given = self.with_rules(must_listen_first=True)
        page = self.pupil.get(f"/stand/{given.pk}/")
        self.assertIsNotNone(page.context["stand"]["listenFirst"])
        self.assertEqual(self.pupil.post(f"/stand/{given.pk}/heard/").status_code, 204)
        self.assertIsNone(self.pupil.get(f"/stand/{given.pk}/").context["stand"]["listenFirst"])


class QuestionsTest(TaskTest):
    def test_answers_alone_are_handed_in_marked_and_released(self) -> None:
        given = self.with_rules(has_questions_only=True, questions=("What is a hemiola?",))
        self.assertRedirects(self.pupil.get(f"/stand/{given.pk}/"), f"/stand/{given.pk}/hand-in/")
        wrong = self.pupil.post(f"/stand/{given.pk}/hand-in/", {"answer-0": ""})
        self.assertContains(wrong, "Your teacher asks for this", status_code=422)
        for text in ("Three against two.", "Two against three, too."):
            done = self.pupil.post(f"/stand/{given.pk}/hand-in/", {"answer-0": text, "note": ""})
            self.assertRedirects(done, f"/stand/{given.pk}/receipt/")
        self.assertEqual(
            (Take.objects.count(), HandIn.objects.get().answers[0][1]), (1, "Two against three, too.")
        )
        take = Take.objects.get()
        mark = judged(take).judgement
        self.assertEqual([c.name for c in mark.criteria], ["hand-answers"])
        self.assertTrue(mark.to_be_marked)
        self.assertContains(self.client.get(f"/takes/{take.pk}/"), "Two against three")
        # What nobody has read yet is no 0.
        cell = book_of(given.school_class).rows[0].cells[0]
        self.assertEqual((cell.state, cell.points), ("waiting", None))
        with self.assertRaises(marking.NotMarkedYet):
            marking.accept(self.teacher, take)
        marking.give_score(self.teacher, take, "hand-answers", TeacherScore(score=80, why=""))
        self.assertEqual(MarkSheet.objects.get().total, 80)
        self.assertEqual(book_of(given.school_class).rows[0].cells[0].points, 80)
        marking.release(self.teacher, take)
        self.assertEqual(measured_takes(Take.objects.all()), [], "who answers has not played badly")


class OldRulesTest(TestCase):
    def test_rules_of_before_read_as_they_did(self) -> None:
        self.assertEqual(RecordingRules.from_json({"passes": 2}), RecordingRules(passes=2))
        self.assertFalse(RecordingRules.from_json({}).is_by_ear)
        self.assertEqual(FreeSpec.from_json({"bars": 4}), FreeSpec(bars=4))


class AtOnceTest(TransactionTestCase):
    def test_two_pages_that_hear_at_once_are_counted_both(self) -> None:
        teacher, student = factories.teacher(), factories.student()
        given = factories.assignment(
            factories.exercise(teacher), factories.school_class(teachers=[teacher], students=[student])
        )
        factories.allow(given, is_by_ear=True, listen_limit=3)
        given = Assignment.objects.get(pk=given.pk)
        gate, ended = Barrier(4), []

        def listen() -> None:
            try:
                gate.wait()
                ended.append(hear(student, get_student_terms(given, student)))
            except HeardEnough:
                ended.append(0)
            finally:
                connection.close()

        threads = [factories.thread(target=listen) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(ended), [0, 1, 2, 3])
