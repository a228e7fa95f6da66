"""What a teacher says of single notes and bars: the mark and everything read from it follow, and the exercise learns it."""

from dataclasses import replace
from types import SimpleNamespace

from django.test import Client, TestCase

from ear.formats.events import events_from_take
from ear.judging.settings import NoteOverride, Reason
from ear.matching.outcome import Outcome
from ear.note_place import NotePlace
from ear.notes import Take as EarTake
from ear.notes import TakeNote
from ear.players.robot import Habits, Jump, play
from ear.progress.standings import TakeFigures
from oido.common.permissions import NotAllowed
from oido.feedback.things_to_do import things_to_do
from oido.jobs.models import Job
from oido.marking import remeasuring
from oido.marking import services as marking
from oido.marking.history import Overtaken
from oido.marking.models import MarkSheet, SheetChange
from oido.people.conventions import reader_of
from oido.progress.need import _behind_class, class_progress
from oido.takes.bar_states import bar_states
from oido.takes.judging import judged
from oido.takes.models import Take
from oido.takes.overrides import get_overrides
from oido.takes.services import measure_take, measured_and_stored
from tests.ear.parts import alike, beat
from tests.oido import factories
from tests.oido.clients import DeskClient

WRONG = 5
"""The target note that is played a semitone off."""


class OverridesTest(TestCase):
    client_class = DeskClient

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student, cls.other = factories.teacher(), factories.student(), factories.student()
        cls.school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student, cls.other])
        cls.given = factories.assignment(factories.exercise(cls.teacher), cls.school_class)
        played = play(cls.given.exercise.part.read(), Habits(), seed=1)
        notes = list(played.notes)
        notes[WRONG] = replace(notes[WRONG], pitch=notes[WRONG].pitch + 1)
        # And an ornament: a quick note beside one that is written.
        beside = notes[9]
        notes.append(
            TakeNote(onset_s=beside.onset_s - 0.09, length_s=0.07, pitch=beside.pitch + 2, velocity=70)
        )
        events = events_from_take(EarTake.of(notes))
        cls.take, cls.second = (
            factories.handed_in(one, cls.given, events=events) for one in (cls.student, cls.other)
        )

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def fresh(self, take: Take | None = None) -> Take:
        return Take.objects.get(pk=(take or self.take).pk)

    def mark(self, take: Take | None = None) -> float:
        return judged(self.fresh(take)).judgement.total

    def extra(self, take: Take | None = None) -> str:
        rows = judged(self.fresh(take)).facts.rows
        return next(f"k{t}" for target, t in zip(rows.target, rows.take, strict=True) if target is None)

    def say(self, place: str, said: str = "right", **more):
        return self.client.post(
            f"/takes/{self.take.pk}/say/", {"place": place, "said": said, "reason": "ornament", **more}
        )

    def test_the_mark_the_ear_notes_and_the_bars_follow(self) -> None:
        before = self.mark()
        self.say(f"t{WRONG}")
        self.assertGreater(self.mark(), before)
        self.assertEqual(MarkSheet.objects.get(take=self.take).total, self.mark())
        actual = judged(self.fresh())
        self.assertEqual(actual.judgement.row_costs[WRONG], 0)
        self.assertNotIn("wrong_key", {one.finding.code for one in actual.judgement.faults})
        part = self.take.target()
        bar = int(part.bar_of_note[WRONG])
        states = {one.number: one.fault for one in bar_states(part, actual.facts, actual.judgement)}
        self.assertEqual(states[bar], 0)
        self.say(self.extra())
        self.assertEqual(judged(self.fresh()).judgement.criterion("notes").score, 100)

    def test_a_bar_that_does_not_count_is_left_out(self) -> None:
        bar = int(self.take.target().bar_of_note[WRONG])
        self.say(f"b{bar}", "not_counted")
        actual = judged(self.fresh())
        self.assertEqual(actual.judgement.row_costs[WRONG], 0)

    def test_it_is_undone_taken_back_and_stands_in_the_history(self) -> None:
        before = self.mark()
        self.say(f"t{WRONG}")
        change = SheetChange.objects.get()
        self.assertEqual((change.kind, change.why), ("saying", "ornament"))
        self.client.post("/marking/undo/", {"change": change.pk})
        self.assertEqual((self.mark(), self.fresh().settings), (before, {}))
        self.say(f"t{WRONG}")
        self.say(f"t{WRONG}", "")
        self.assertEqual((self.mark(), self.fresh().settings), (before, {}))

    def test_the_student_sees_what_was_said(self) -> None:
        self.say(f"t{WRONG}")
        reader = Client()
        reader.force_login(self.student)
        self.assertNotContains(reader.get(f"/takes/{self.take.pk}/"), "counts as right")
        marking.release(self.teacher, self.fresh())
        page = reader.get(f"/takes/{self.take.pk}/")
        self.assertContains(page, "Decisions on notes and bars")
        self.assertContains(page, "agreed ornament")
        self.assertContains(reader.get(f"/takes/{self.take.pk}/notes/t{WRONG}/"), "Your teacher decided")

    def test_the_exercise_learns_it_for_all(self) -> None:
        before = self.mark(self.second)
        self.say(self.extra(), for_all="on")
        self.say(f"t{WRONG}", for_all="on")
        factories.work_all()
        self.assertGreater(self.mark(self.second), before)
        self.assertEqual(self.mark(self.second), self.mark())
        later = factories.take(self.student, self.given, events=[tuple(e) for e in self.take.events])
        self.assertEqual(set(get_overrides(later, judged(later).facts).values()), {NoteOverride.RIGHT})
        self.say(f"t{WRONG}", "", for_all="on")
        factories.work_all()
        self.assertLess(self.mark(self.second), self.mark(later))

    def test_a_released_mark_stays_until_its_teacher_agrees(self) -> None:
        marking.release(self.teacher, self.fresh(self.second))
        before = MarkSheet.objects.get(take=self.second).total
        self.say(f"t{WRONG}", for_all="on")
        factories.work_all()
        self.assertEqual(MarkSheet.objects.get(take=self.second).total, before)
        self.assertIsNotNone(self.fresh(self.second).proposed)

    def test_undone_it_is_undone_in_all_takes(self) -> None:
        before = self.mark(), self.mark(self.second)
        self.say(f"t{WRONG}", for_all="on")
        factories.work_all()
        self.assertGreater(self.mark(self.second), before[1])
        change = SheetChange.objects.get(kind="saying")
        self.client.post("/marking/undo/", {"change": change.pk})
        factories.work_all()
        self.assertEqual((self.mark(), self.mark(self.second)), before)
        self.assertEqual(self.fresh().part.accepted, {})
        # Said in another take since, it is not undone from here.
        self.say(f"t{WRONG}", for_all="on")
        marking.override_place(
            self.teacher, self.fresh(self.second), NotePlace.target(1), NoteOverride.RIGHT, for_all=True
        )
        change = SheetChange.objects.filter(kind="saying", is_undone=False, sheet__take=self.take).get()
        with self.assertRaises(Overtaken):
            marking.undo(self.teacher, [change])

    def test_everything_follows_what_is_said_in_all_takes(self) -> None:
        """A class with released marks: every take stays readable, and ear notes, things to do and paper count anew."""
        part = self.given.exercise.part.read()
        notes = list(play(part, Habits(), seed=1).notes)
        wrong = [1, 4, 6, 9, 11]
        for number in wrong:
            notes[number] = replace(notes[number], pitch=notes[number].pitch + 1)
        events = events_from_take(EarTake.of(notes))
        takes = [
            factories.handed_in(student, self.given, events=events) for student in (self.student, self.other)
        ]
        for take in takes:
            marking.release(self.teacher, take)
        said, released = takes
        address = f"/takes/{said.pk}/"
        self.assertContains(self.client.get(address), "5 wrong notes")
        for number in wrong[:4]:
            self.client.post(
                f"{address}say/",
                {"place": f"t{number}", "said": "right", "reason": "misprint", "for_all": "on"},
            )
        factories.work_all()
        self.assertFalse(Job.objects.exclude(state=Job.State.DONE).exists())
        page = self.client.get(address)
        self.assertContains(page, "One wrong note")
        self.assertContains(page, "misprint")
        reader = Client()
        reader.force_login(self.student)
        self.assertNotContains(reader.get(address), "5 wrong notes")
        left = judged(self.fresh(said)).judgement.faults[0].finding
        self.assertEqual((left.rows, left.commonest.written), ((wrong[4],), part.notes[wrong[4]].pitch))
        [first, *_] = things_to_do(self.student, self.fresh(said), reader_of(self.student))
        self.assertTrue(first.text.startswith("In bar"))
        # The other one keeps its released mark, readable, with a proposal that counts anew.
        other = self.fresh(released)
        self.assertTrue(judged(other).is_readable)
        self.assertEqual(judged(other).judgement.faults[0].finding.count, 5)
        self.assertIsNotNone(other.proposed)
        remeasuring.agree(self.teacher, other)
        self.assertEqual(judged(self.fresh(released)).judgement.faults[0].finding.count, 1)
        self.assertEqual(self.client.get(f"/assignments/{self.given.pk}/").status_code, 200)

    def test_measured_again_by_the_same_version_a_released_mark_stays_readable(self) -> None:
        marking.release(self.teacher, self.fresh())
        before = self.fresh().judgement
        for _ in range(2):
            measured_and_stored(self.fresh(), remeasuring.store_anew)
            take = self.fresh()
            self.assertEqual(take.judgement, before)
            self.assertTrue(judged(take).is_readable)
            self.assertIsNotNone(take.proposed)
            # No more is stored than the two that are in use.
            self.assertEqual(take.measurements.count(), 2)
        remeasuring.decline(self.teacher, self.fresh())
        self.assertTrue(judged(self.fresh()).is_readable)

    def test_other_settings_keep_what_was_said(self) -> None:
        self.say(f"t{WRONG}")
        said = self.mark()
        form = self.client.get(f"/takes/{self.take.pk}/try/").context["try_form"]
        sent = {name: form[name].value() for name in form.fields} | {"keep": "1", "why": "kinder"}
        self.client.post(f"/takes/{self.take.pk}/try/", sent)
        self.assertEqual(self.mark(), said)

    def test_places_that_are_not_there_and_people_who_may_not(self) -> None:
        for place in ("t999", "k9999", "b0", "b77", "x1", "", "t²", "t-1"):
            self.say(place)
        self.assertEqual(self.fresh().settings, {})
        with self.assertRaises(NotAllowed):
            marking.override_place(factories.teacher(), self.take, NotePlace.target(1), NoteOverride.RIGHT)
        colleague = factories.teacher()
        self.school_class.teachers.add(colleague)
        with self.assertRaises(NotAllowed):
            marking.override_place(
                colleague,
                self.take,
                NotePlace.target(1),
                NoteOverride.RIGHT,
                reason=Reason.MISPRINT,
                for_all=True,
            )
        self.assertEqual(self.fresh().settings, {})


class ComparingTest(TestCase):
    client_class = DeskClient

    def test_two_takes_of_one_student_and_of_two_on_one_page(self) -> None:
        teacher, ada, ben = (
            factories.teacher(),
            factories.student(first="Ada"),
            factories.student(first="Ben"),
        )
        school_class = factories.school_class(teachers=[teacher], students=[ada, ben])
        given = factories.assignment(factories.exercise(teacher), school_class)
        one, other = factories.handed_in(ada, given), factories.handed_in(ben, given)
        self.client.force_login(teacher)
        page = self.client.get(f"/takes/{one.pk}/compare/")
        for said in (
            "Ada Tester and Ben Tester",
            f"/takes/{one.pk}/notes.json /takes/{other.pk}/notes.json",
            "hear in turn",
        ):
            self.assertContains(page, said)
        self.assertEqual(self.client.get(f"/takes/{one.pk}/compare/?with={one.pk}").status_code, 404)
        self.assertEqual(self.client.get(f"/takes/{one.pk}/compare/?with=x").status_code, 200)
        lonely = factories.handed_in(ada, factories.assignment(factories.exercise(teacher), school_class))
        self.assertRedirects(self.client.get(f"/takes/{lonely.pk}/compare/"), f"/takes/{lonely.pk}/")


class NeedTest(TestCase):
    client_class = DeskClient

    def test_who_is_behind_the_class_beyond_chance_stands_ahead_with_the_takes(self) -> None:
        teacher = factories.teacher()
        students = [factories.student(first=name) for name in ("Ada", "Ben", "Cem", "Dee", "Eda", "Zoe")]
        school_class = factories.school_class(teachers=[teacher], students=students)
        rows = class_progress(school_class)
        self.assertFalse(any(row.needs_help for row in rows))
        for _n in range(2):
            given = factories.assignment(factories.exercise(teacher), school_class)
            for student in students:
                wrong = 0.4 if student.first_name == "Zoe" else 0.02
                factories.handed_in(student, given, habits=Habits(spread_ms=12, wrong_keys=wrong))
        for _n in range(3):
            # What one alone has handed in compares nobody, and hides nothing.
            factories.handed_in(students[0], factories.assignment(factories.exercise(teacher), school_class))
        rows = class_progress(school_class)
        self.assertEqual((rows[0].student.first_name, rows[0].needs_help), ("Zoe", True))
        self.assertFalse(any(row.needs_help for row in rows[1:]))
        flag = next(flag for flag in rows[0].flags if flag.is_bad)
        self.assertEqual(len(flag.takes), 2)
        self.client.force_login(teacher)
        self.assertContains(
            self.client.get(f"/classes/{school_class.pk}/progress/"), f'href="/takes/{flag.takes[0].pk}/"'
        )

    def test_a_figure_that_chance_explains_puts_nobody_behind(self) -> None:
        def behind(error: float) -> set[int]:
            spreads = (20.0, 19.0, 21.0, 20.0, 22.0, 60.0)
            takes = [SimpleNamespace(pk=n, student_id=n, assignment_id=1) for n in range(len(spreads))]
            return set(_behind_class([
                (take, TakeFigures(right_percent=95.0, right_error=1.0, spread_ms=spread, spread_error=error,
                                   bias_ms=None, bias_error=None, dynamics=None, tempo_percent=100.0, seconds=20.0))
                for take, spread in zip(takes, spreads, strict=True)
            ]))  # fmt: skip

        self.assertEqual(behind(5.0), {5})
        self.assertEqual(behind(25.0), set())


class BarAgainTest(TestCase):
    client_class = DeskClient
    """Bar 4 is played nearly half a second late, and the rest in time: alone its notes are found."""

    BAR = 4

    @classmethod
    def setUpTestData(cls) -> None:
        cls.teacher, cls.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[cls.teacher], students=[cls.student])
        cls.given = factories.assignment(factories.exercise(cls.teacher), school_class)
        part = cls.given.exercise.part.read()
        bar = part.bars[cls.BAR - 1]
        start_s, end_s = (part.tempos.second_at(t) - 0.05 for t in (bar.start_tick, bar.end_tick))
        late = [
            replace(n, onset_s=n.onset_s + 0.45) if start_s <= n.onset_s < end_s else n
            for n in play(part, Habits(spread_ms=4), seed=1).notes
        ]
        events = events_from_take(EarTake.of(late))
        cls.take = factories.handed_in(cls.student, cls.given, events=events)

    def setUp(self) -> None:
        self.client.force_login(self.teacher)

    def fresh(self) -> Take:
        return Take.objects.get(pk=self.take.pk)

    def right(self) -> int:
        return judged(self.fresh()).facts.counts.matched

    def say(self, said: str, bar: object = BAR):
        return self.client.post(f"/takes/{self.take.pk}/say/", {"bar": bar, "said": said}, follow=True)

    def test_its_notes_are_found_and_mark_history_and_student_follow(self) -> None:
        before, mark = self.right(), MarkSheet.objects.get(take=self.take).total
        self.assertContains(self.client.get(f"/takes/{self.take.pk}/notes/t12/"), "measure bar 4 again")
        page = self.say("again")
        self.assertEqual(self.right(), len(self.take.target().notes))
        self.assertContains(page, "Bar 4: 4 of 4 notes are right; before, it was")
        sheet = MarkSheet.objects.get(take=self.take)
        self.assertGreater(sheet.total, mark)
        self.assertEqual(sheet.total, judged(self.fresh()).judgement.total)
        self.assertContains(self.say("again", 2), "still 4 of 4 notes right")
        marking.release(self.teacher, self.fresh())
        reader = Client()
        reader.force_login(self.student)
        self.assertContains(reader.get(f"/takes/{self.take.pk}/"), "measured again")
        change = SheetChange.objects.filter(kind="measured").last()
        assert change is not None
        self.assertEqual(change.points_before, round(mark))
        self.say("as-before")
        self.assertEqual(self.right(), before)

    def test_it_is_undone_and_measured_so_by_later_versions(self) -> None:
        before, mark = self.right(), MarkSheet.objects.get(take=self.take).total
        self.say("again")
        measure_take(self.fresh())
        self.assertEqual(self.right(), len(self.take.target().notes))
        self.client.post("/marking/undo/", {"change": SheetChange.objects.get().pk})
        self.assertEqual((self.right(), MarkSheet.objects.get(take=self.take).total), (before, mark))
        self.assertEqual(self.fresh().settings, {})

    def test_a_bar_that_there_is_not_is_refused(self) -> None:
        for bar in (0, 99, "x", ""):
            self.assertContains(self.say("again", bar), "There is no such note or bar")
        self.assertEqual(self.fresh().settings, {})
        self.client.force_login(self.student)
        self.assertEqual(self.say("again").status_code, 403)


class SlipTest(TestCase):
    client_class = DeskClient
    """A bar left out among bars alike: the ear's guess, and the other stories."""

    def setUp(self) -> None:
        self.teacher, self.student = factories.teacher(), factories.student()
        school_class = factories.school_class(teachers=[self.teacher], students=[self.student])
        part = alike(beat())
        given = factories.assignment(factories.exercise(self.teacher, part=part), school_class)
        played = play(part, Habits(spread_ms=6, jumps=(Jump(bar=4, skip_bars=1),)), seed=1)
        self.take = factories.handed_in(self.student, given, events=events_from_take(played))
        self.client.force_login(self.teacher)

    def slip(self):
        (actual,) = judged(Take.objects.get(pk=self.take.pk)).facts.slips
        return actual

    def place(self, chosen: object, first: object = None):
        data = {"first": self.slip().could_land[0] if first is None else first, "chosen": chosen}
        return self.client.post(f"/takes/{self.take.pk}/slips/", data, follow=True)

    def test_the_other_story_is_one_step_away_and_undone_in_one(self) -> None:
        heard, address = self.slip(), f"/takes/{self.take.pk}/"
        page = self.client.get(address)
        self.assertContains(page, "It could equally have been:")
        self.assertContains(page, "before bar 4")
        self.assertNotContains(page, f'value="{heard.landed}">')
        page = self.place(heard.could_land[0])
        self.assertContains(page, "Skips the music before bar 4, beat 1 (4 beats).")
        self.assertNotContains(page, "A guess:")
        self.assertContains(page, "the slip was here")
        self.assertEqual((self.slip().landed, self.slip().is_told), (heard.could_land[0], True))
        rows = judged(Take.objects.get(pk=self.take.pk)).facts.rows
        missed = [
            n for n, outcome in zip(rows.target, rows.outcome, strict=True) if outcome is Outcome.MISSED
        ]
        self.assertEqual({rows.bar[n] for n in missed}, {3})
        measure_take(Take.objects.get(pk=self.take.pk))
        self.assertEqual(self.slip().landed, heard.could_land[0])
        self.client.post("/marking/undo/", {"change": SheetChange.objects.get().pk})
        self.assertEqual(self.slip(), heard)
        self.place(heard.could_land[0])
        self.place("")
        self.assertEqual(self.slip(), heard)

    def test_places_where_it_cannot_have_been_are_refused(self) -> None:
        heard = self.slip()
        for chosen, first in ((1, None), (heard.could_land[0], 1), ("x", None), ("", None)):
            self.assertContains(self.place(chosen, first), "has been moved in the meantime")
        self.assertEqual(Take.objects.get(pk=self.take.pk).settings, {})
        page = Client()
        page.force_login(self.student)
        marking.release(self.teacher, self.take)
        self.assertNotContains(page.get(f"/takes/{self.take.pk}/"), "It could equally have been")
