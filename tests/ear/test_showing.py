"""Show and explain: what a copy shows by itself, and what it is of the mark."""

from collections.abc import Callable
from dataclasses import replace
from unittest import TestCase

from ear.criteria.levels import DEFAULT_LEVEL
from ear.editing import bars, drawing
from ear.editing.edited import ALL
from ear.editing.quantise import QuantiseGrid, plan, quantise
from ear.errors import FormatError, ValueOutOfRange
from ear.extraction.extraction import extract_facts
from ear.judging.judge import Changes, Rules, conclude, score
from ear.judging.judgement import TeacherScore
from ear.judging.rubric import DEFAULT_RUBRICS, HelpCost
from ear.judging.shown import EXPLAINED, SHOWN, measured_by_itself, with_showing
from ear.notes import Kind, Part
from ear.players.robot import Habits, play
from ear.practice.rules import RecordingRules
from ear.practice.showing import InWords, Showing, Shown, Skill, ToShow
from ear.recording.corrected import compared, copy_of
from ear.recording.shown import seen
from tests.ear.parts import melody

ALL_SKILLS = tuple(ToShow(skill=skill) for skill in Skill)


class SeenTest(TestCase):
    def setUp(self) -> None:
        self.part = melody(bars=4)
        take = play(self.part, Habits(spread_ms=30, velocity_spread=8), seed=5)
        raw = copy_of(take, self.part)
        # One wrong note, and one too many.
        self.wrong = raw.notes[5]
        extra = replace(raw.notes[9], onset_tick=raw.notes[9].onset_tick + 70, pitch=40, velocity=50)
        wrong = (replace(n, pitch=n.pitch + 1) if n is self.wrong else n for n in raw.notes)
        self.raw = raw.with_notes([*wrong, extra])
        self.extra = next(n for n in self.raw.notes if n.pitch == 40)

    def done(self, copy: Part, *, may_repeat: bool = True) -> set[Skill]:
        actual = seen(
            self.raw, copy, ALL_SKILLS,
            written={n.onset_tick for n in self.part.notes},
            wrong={(self.wrong.onset_tick, self.wrong.pitch + 1): self.wrong.pitch},
            extra={(self.extra.onset_tick, 40)}, may_repeat=may_repeat,
        )  # fmt: skip
        return {one.asked.skill for one in actual if one.is_done}

    def index(self, pitch: int, tick: int) -> frozenset[int]:
        return frozenset(i for i, n in enumerate(self.raw.notes) if (n.pitch, n.onset_tick) == (pitch, tick))

    def test_each_thing_is_seen_when_it_was_done_and_no_other(self) -> None:
        wrong = self.index(self.wrong.pitch + 1, self.wrong.onset_tick)
        extra = self.index(40, self.extra.onset_tick)
        some = frozenset({0, 1, 2})
        acts: list[tuple[Skill, Callable[[Part], Part]]] = [
            (Skill.QUANTISED, lambda p: quantise(p, plan(p, ALL, QuantiseGrid(step=480))).part),
            (Skill.QUANTISED, lambda p: quantise(p, plan(p, ALL, QuantiseGrid(step=480), strength=0.5)).part),
            (Skill.WRONG_NOTE, lambda p: drawing.move(p, wrong, semitones=-1).part),
            (Skill.EXTRA_NOTE, lambda p: drawing.delete(p, extra).part),
            (Skill.LENGTHS, lambda p: drawing.lengthen(p, some, ticks=-60).part),
            (Skill.LOUDNESS, lambda p: drawing.change_velocity(p, some, steps=9).part),
            (Skill.REPEATED, lambda p: bars.repeat_bars(p, first=2, last=2, times=1).part),
            (Skill.REPEATED, lambda p: bars.repeat_bars(
                bars.delete_bars(p, first=3, last=3).part, first=2, last=2, times=1).part),
        ]  # fmt: skip
        for skill, act in acts:
            with self.subTest(skill):
                self.assertEqual(self.done(act(self.raw)), {skill})

    def test_what_is_something_else_does_not_tick(self) -> None:
        wrong = self.index(self.wrong.pitch + 1, self.wrong.onset_tick)
        some = frozenset({0, 1, 2})
        acts: list[Callable[[Part], Part]] = [
            lambda p: p,
            lambda p: drawing.move(p, wrong, semitones=4).part,
            lambda p: drawing.delete(p, frozenset({2})).part,
            lambda p: drawing.move(p, ALL, ticks=37).part,
            lambda p: bars.insert_bars(p, before=3, count=1).part,
        ]
        for number, act in enumerate(acts):
            with self.subTest(number):
                self.assertEqual(self.done(act(self.raw)), set())
        level = drawing.change_velocity(self.raw, some, steps=20).part
        self.assertEqual(self.done(level), {Skill.LOUDNESS})

    def test_alike_bars_are_no_repeat_unless_bars_were_worked_on(self) -> None:
        copy = bars.repeat_bars(self.raw, first=2, last=2, times=1).part
        self.assertNotIn(Skill.REPEATED, self.done(copy, may_repeat=False))

    def test_notes_after_a_repeated_bar_have_not_been_moved(self) -> None:
        copy = bars.repeat_bars(self.raw, first=2, last=2, times=2).part
        actual = compared(self.raw, copy, may_repeat=True)
        self.assertEqual((actual.repeated, actual.corrections), ((3, 4), ()))


class RulesTest(TestCase):
    def test_what_cannot_be_asked_is_said_beside_its_field(self) -> None:
        one = ToShow(skill=Skill.LENGTHS)
        for field, more in (
            ("handed_in_takes", {"to_show": (one,), "least_takes": 2, "handed_in_takes": 2}),
            ("to_show", {"to_show": (one, one)}),
            ("shown_percent", {"shown_percent": 30}),
        ):
            with self.assertRaises(ValueOutOfRange) as caught:
                RecordingRules(**more)  # type: ignore[arg-type]
            self.assertEqual(caught.exception.field, field)
        self.assertRaises(ValueOutOfRange, ToShow, skill=Skill.LENGTHS, in_words=InWords.LESSON)
        rules = RecordingRules(
            to_show=(ToShow(skill=Skill.LENGTHS, in_words=InWords.LESSON, terms="legato"),)
        )
        self.assertTrue(rules.has_copies)
        self.assertEqual(RecordingRules.from_json(rules.to_json()), rules)
        self.assertRaises(FormatError, RecordingRules.from_json, {"to_show": [{"skill": "juggling"}]})


class MarkTest(TestCase):
    def setUp(self) -> None:
        self.showing = Showing(
            percent=100,
            things=(
                Shown(asked=ToShow(skill=Skill.QUANTISED, in_words=InWords.OWN), count=9, of=9, is_done=True),
                Shown(asked=ToShow(skill=Skill.LENGTHS)),
                Shown(asked=ToShow(skill=Skill.LOUDNESS), count=2, is_done=True),
            ),
        )
        part = melody(bars=4)
        self.facts = extract_facts(part, play(part, Habits(misses=0.5), seed=3))

    def mark(
        self, showing: Showing, given: dict[str, TeacherScore], help_step: int | None = None
    ) -> tuple[float, bool]:
        plain = replace(
            DEFAULT_RUBRICS[Kind.KEYBOARD],
            help=(HelpCost(name="none", cost=0), HelpCost(name="much", cost=12)),
        )
        rubric = with_showing(
            plain, showing, name=lambda one: one.asked.skill.value, labels=("Shown", "Explained")
        )
        scores = score(self.facts, Rules(rubric=rubric, level=DEFAULT_LEVEL))
        judged = conclude(self.facts, scores, rubric, Changes(teacher_scores=given, help_step=help_step))
        return judged.total, bool(judged.to_be_marked)

    def test_each_thing_shown_or_explained_is_worth_as_much(self) -> None:
        by_itself = measured_by_itself(self.showing)
        self.assertEqual(by_itself.ticked, (0, 2))
        self.assertTrue(self.mark(self.showing, {SHOWN: by_itself})[1], "nobody has read what was said")
        read = {SHOWN: by_itself, EXPLAINED: TeacherScore(score=100, ticked=(0,))}
        total, is_open = self.mark(self.showing, read)
        self.assertFalse(is_open)
        self.assertAlmostEqual(total, 75, delta=0.5)
        self.assertAlmostEqual(self.mark(self.showing, read, help_step=1)[0], 63, delta=0.5)

    def test_what_is_left_of_the_mark_is_the_take(self) -> None:
        read = {SHOWN: TeacherScore(score=100), EXPLAINED: TeacherScore(score=100)}
        totals = [self.mark(replace(self.showing, percent=p), read)[0] for p in (25, 50, 75, 100)]
        self.assertEqual(totals, sorted(totals))
        self.assertAlmostEqual(totals[-1], 100)
        self.assertEqual(Showing.from_json(self.showing.to_json()), self.showing)
