"""A kit that sends other pads: told on the report with both marks, changed in one step for the set-up."""

from django.test import TestCase

from ear.formats.events import events_from_take
from ear.measuring.pads import find_pad_choices
from ear.notes import Kind, MeterMap, Note, Part, TempoMap
from ear.players.robot import Habits, play
from oido.common.permissions import NotAllowed
from oido.marking.services import read_pads_as, release
from oido.takes.judging import judged
from oido.takes.models import Take
from tests.ear.parts import beat, two_hands
from tests.oido import factories
from tests.oido.clients import DeskClient

SNARE, RIM = 38, 75


def on_other_pads(part: Part, *, seed: int = 1, pads: dict[int, int] | None = None):
    """A clean take whose snare sends another number."""
    moved = {SNARE: RIM} if pads is None else pads
    events = events_from_take(play(part, Habits(spread_ms=8), seed=seed))
    return [
        (t, status, moved.get(a, a) if status & 0xF0 in (0x80, 0x90) else a, b) for t, status, a, b in events
    ]


def readings(part: Part, take: Take):
    rows = judged(take).facts.rows
    return find_pad_choices(part, take.read(), zip(rows.target, rows.take, rows.outcome, strict=True))


class KitTest(TestCase):
    client_class = DeskClient

    def setUp(self) -> None:
        self.teacher, self.student, self.other = factories.teacher(), factories.student(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student, self.other])
        self.part = beat(bars=4)
        self.given = factories.assignment(factories.exercise(self.teacher, self.part), school_class)
        self.client.force_login(self.teacher)

    def handed_in(self, who=None, **more) -> Take:
        return factories.handed_in(who or self.student, self.given, events=on_other_pads(self.part, **more))

    def test_it_is_told_with_both_marks_and_changed_in_one_step(self) -> None:
        take = self.handed_in()
        page = self.client.get(f"/takes/{take.pk}/")
        self.assertContains(page, "Treat pad 75 as snare?")
        trial = page.context["kit"].tried
        self.assertLess(trial.before, trial.after - 5)
        self.client.post(f"/takes/{take.pk}/kit/")
        take = Take.objects.get(pk=take.pk)
        self.assertEqual(judged(take).facts.counts.wrong_pitch, 0)
        self.assertEqual(take.sheet.points, trial.after)
        self.assertEqual(take.events[2][2] in (RIM, 36, 42), True)
        self.assertNotContains(self.client.get(f"/takes/{take.pk}/"), "Read pad 75")

    def test_the_set_up_has_it_for_its_other_takes_and_those_to_come(self) -> None:
        first = factories.take(self.student, self.given, events=on_other_pads(self.part, seed=2))
        of_other = self.handed_in(self.other, seed=3)
        take = self.handed_in()
        read_pads_as(self.teacher, take, {RIM: SNARE})
        factories.work_all()
        self.assertEqual(judged(Take.objects.get(pk=first.pk)).facts.counts.wrong_pitch, 0)
        self.assertGreater(judged(Take.objects.get(pk=of_other.pk)).facts.counts.wrong_pitch, 0)
        later = factories.take(self.student, self.given, events=on_other_pads(self.part, seed=4))
        self.assertEqual(judged(later).facts.counts.wrong_pitch, 0)

    def test_a_mark_that_students_have_seen_waits_for_its_teacher(self) -> None:
        seen = self.handed_in()
        release(self.teacher, seen)
        again = factories.assignment(self.given.exercise, self.given.school_class)
        take = factories.handed_in(self.student, again, events=on_other_pads(self.part, seed=5))
        before = Take.objects.get(pk=seen.pk).sheet.points
        read_pads_as(self.teacher, take, {RIM: SNARE})
        factories.work_all()
        seen = Take.objects.get(pk=seen.pk)
        self.assertEqual(seen.sheet.points, before)
        self.assertIsNotNone(seen.proposed_id)

    def test_only_its_teachers_change_it(self) -> None:
        take = self.handed_in()
        for who in (factories.teacher(), self.student):
            with self.assertRaises(NotAllowed):
                read_pads_as(who, take, {RIM: SNARE})
        self.client.force_login(self.student)
        self.assertEqual(self.client.post(f"/takes/{take.pk}/kit/").status_code, 403)

    def test_a_hand_that_misses_is_no_other_kit(self) -> None:
        clean = factories.handed_in(self.student, self.given)
        self.assertEqual(readings(self.part, clean), ())
        # The kick is struck for the snare: both are written, so it is the foot.
        wrong = self.handed_in(self.other, pads={SNARE: 36})
        self.assertEqual(readings(self.part, wrong), ())
        keys = Part.of(
            (Note(onset_tick=480 * k, length_tick=400, pitch=60, velocity=80) for k in range(8)),
            kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90),
        )  # fmt: skip
        self.assertEqual(readings(keys, clean), ())


class CopiesTest(TestCase):
    """Notes that a second device sends an octave higher, or that arrive on two ways."""

    client_class = DeskClient

    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        self.part = two_hands(bars=8)
        self.given = factories.assignment(factories.exercise(self.teacher, self.part), school_class)
        self.client.force_login(self.teacher)

    def copied(self, semitones: int, *, late_ms: float = 6.0) -> Take:
        events = events_from_take(play(self.part, Habits(spread_ms=8), seed=1))
        copies = [(t + late_ms, status, pitch + semitones, b) for t, status, pitch, b in events]
        both = sorted([*events, *copies], key=lambda event: event[0])
        return factories.handed_in(self.student, self.given, events=both)

    def test_they_are_told_once_with_both_marks_and_left_out_in_one_step(self) -> None:
        for semitones, code in ((12, "octave_copy"), (0, "sent_twice")):
            with self.subTest(code):
                take = self.copied(semitones)
                first = judged(take).judgement.faults[0]
                self.assertEqual(first.finding.code, code)
                self.assertFalse(
                    {f.finding.code for f in judged(take).judgement.faults}
                    & {"extras", "doubles", "second_pass"}
                )
                page = self.client.get(f"/takes/{take.pk}/")
                self.assertContains(page, "Duplicate notes")
                trial = page.context["copies"].tried
                self.assertLess(trial.before, trial.after - 10)
                recorded = Take.objects.get(pk=take.pk).events
                self.client.post(f"/takes/{take.pk}/copies/")
                take = Take.objects.get(pk=take.pk)
                self.assertEqual(take.sheet.points, trial.after)
                self.assertEqual(take.events, recorded)
                left = take.read().notes
                self.assertEqual(sorted(n.pitch for n in left), sorted(n.pitch for n in self.part.notes))
                self.assertLess(max(n.length_s for n in left), 2.0)
                self.assertNotContains(self.client.get(f"/takes/{take.pk}/"), "Duplicate notes")

    def test_a_take_without_copies_offers_nothing_and_takes_nothing(self) -> None:
        take = factories.handed_in(
            self.student, self.given, events=events_from_take(play(self.part, Habits(spread_ms=8), seed=1))
        )
        self.assertNotContains(self.client.get(f"/takes/{take.pk}/"), "Duplicate notes")
        self.client.post(f"/takes/{take.pk}/copies/")
        self.assertIsNone(Take.objects.get(pk=take.pk).set_for_it.without_copies)
