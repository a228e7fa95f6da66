"""Sections: made, taken away, played and measured each at its own tempo."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.criteria.levels import DEFAULT_LEVEL
from ear.editing.bars import delete_bars
from ear.editing.sections import remove_section, set_section, stretches
from ear.errors import ValueOutOfRange
from ear.extraction.codec import facts_from_json, facts_to_json
from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.formats.events import events_from_take
from ear.formats.importing import open_file
from ear.formats.smf_writing import write_part
from ear.notes import Kind, Part
from ear.players.robot import Habits, Jump, play
from ear.practice.ladder import Rung
from ear.practice.proposals import propose_ladder
from ear.recording.loops import judge, part_of_loop
from tests.ear.parts import beat, melody, two_hands

TEMPOS = st.floats(min_value=30, max_value=240)


def slow_then_fast(part: Part) -> Part:
    begun = set_section(part, bar=1, name="Slow", bpm=60.0)
    return set_section(begun, bar=len(part.bars) // 2 + 1, name="Fast", bpm=112.0)


class EditingTest(TestCase):
    def told(self, part: Part) -> list[tuple[str, int, int, float]]:
        return [(s.name, s.first_bar, s.last_bar, s.bpm) for s in stretches(part)]

    def test_a_section_has_its_tempo_up_to_the_next(self) -> None:
        part = slow_then_fast(melody(bars=8))
        self.assertEqual(self.told(part), [("Slow", 1, 4, 60.0), ("Fast", 5, 8, 112.0)])
        between = set_section(part, bar=3, name="Walk", bpm=80.0)
        self.assertEqual(
            self.told(between), [("Slow", 1, 2, 60.0), ("Walk", 3, 4, 80.0), ("Fast", 5, 8, 112.0)]
        )
        named = set_section(between, bar=3, name="Stroll")
        self.assertEqual(self.told(named)[1], ("Stroll", 3, 4, 80.0))
        self.assertEqual(self.told(remove_section(between, bar=3)), self.told(part))
        self.assertEqual(self.told(remove_section(part, bar=5)), [("Slow", 1, 8, 60.0)])
        self.assertEqual(remove_section(part, bar=1).tempos, part.tempos)
        late = set_section(melody(bars=4, bpm=90.0), bar=3, name="B", bpm=70.0)
        self.assertEqual(self.told(late), [("", 1, 2, 90.0), ("B", 3, 4, 70.0)])

    @given(st.lists(st.tuples(st.integers(1, 8), TEMPOS), min_size=1, max_size=6), st.integers(1, 8))
    def test_what_is_set_holds_and_the_rest_is_as_it_was(
        self, sets: list[tuple[int, float]], last: int
    ) -> None:
        part = melody(bars=8)
        for bar, bpm in sets:
            before = {s.first_bar: s.bpm for s in stretches(part) if s.name and s.first_bar != bar}
            part = set_section(part, bar=bar, name=f"from {bar}", bpm=bpm)
            after = {s.first_bar: s.bpm for s in stretches(part)}
            self.assertEqual(after[bar], bpm)
            self.assertEqual({b: after[b] for b in before}, before)
        self.assertEqual(part.notes, melody(bars=8).notes)

    def test_what_cannot_be_set_is_said_beside_its_field(self) -> None:
        part = melody(bars=4)
        for field, act in (
            ("name", lambda: set_section(part, bar=1, name=" ")),
            ("bar", lambda: set_section(part, bar=5, name="A")),
            ("bar", lambda: remove_section(part, bar=2)),
        ):
            with self.assertRaises(ValueOutOfRange) as caught:
                act()
            self.assertEqual(caught.exception.field, field)

    def test_files_keep_names_and_tempos(self) -> None:
        part = slow_then_fast(melody(bars=8))
        opened = open_file(write_part(part))
        back = opened.part(opened.first_choice(Kind.KEYBOARD), kind=Kind.KEYBOARD)
        self.assertEqual(self.told(back), self.told(part))


class MeasuringTest(TestCase):
    def facts(self, part: Part, habits: Habits, *, has_click: bool = True) -> Facts:
        return extract_facts(part, play(part, habits, seed=3), has_click=has_click)

    def test_who_keeps_a_ratio_to_the_click_keeps_it_in_every_section(self) -> None:
        for part in (slow_then_fast(p) for p in (melody(bars=8), two_hands(), beat(bars=8))):
            for ratio in (0.8, 1.0, 1.2):
                for has_click in (True, False):
                    with self.subTest(kind=part.kind, ratio=ratio, has_click=has_click):
                        facts = self.facts(part, Habits(spread_ms=8, tempo_ratio=ratio), has_click=has_click)
                        self.assertEqual((facts.counts.matched, facts.slips), (len(part.notes), ()))
                        self.assertAlmostEqual(facts.figures.tempo_ratio, ratio, delta=0.01)
                        self.assertIsNone(facts.figures.pace, "a written change is no bend")
                        told = {s.name: (s.bpm, s.played_bpm) for s in facts.sections}
                        self.assertAlmostEqual(told["Slow"][1] or 0, 60 * ratio, delta=1.5)
                        self.assertAlmostEqual(told["Fast"][1] or 0, 112 * ratio, delta=2.5)

    def test_a_slip_is_as_long_as_its_beats_are_where_it_happens(self) -> None:
        part = slow_then_fast(melody(bars=8))
        for bar in (3, 7):
            facts = self.facts(part, Habits(spread_ms=5, jumps=(Jump(bar=bar, quarters=1.0),)))
            self.assertEqual([s.bar for s in facts.slips], [bar])
            self.assertAlmostEqual(facts.slips[0].beats, 1.0, delta=0.05)
            self.assertEqual(facts.counts.matched, len(part.notes))

    def test_sections_add_up_and_are_read_back(self) -> None:
        part = slow_then_fast(melody(bars=8))
        facts = self.facts(part, Habits(spread_ms=10, wrong_keys=0.1, misses=0.1))
        self.assertEqual(sum(s.notes for s in facts.sections), facts.counts.target)
        self.assertEqual(sum(s.right for s in facts.sections), facts.counts.matched)
        self.assertEqual(facts_from_json(facts_to_json(facts)), facts)
        self.assertEqual(self.facts(melody(bars=8), Habits()).sections, ())

    def test_what_the_fast_section_lacks_is_told_of_it_alone(self) -> None:
        part = slow_then_fast(melody(bars=8))
        slow = [n for n in play(part, Habits(spread_ms=2), seed=3).notes if n.onset_s < 16.0]
        fast = [n for n in play(part, Habits(spread_ms=40), seed=3).notes if n.onset_s >= 16.0]
        take = play(part, Habits(), seed=1).of([*slow, *fast])
        first, second = extract_facts(part, take).sections
        assert first.spread_ms is not None and second.spread_ms is not None
        self.assertLess(first.spread_ms * 3, second.spread_ms)


class PractisingTest(TestCase):
    def test_the_ladder_goes_by_sections_and_over_the_change(self) -> None:
        part = slow_then_fast(melody(bars=8))
        rungs = [(r.name, r.first_bar, r.last_bar) for r in propose_ladder(part).rungs]
        self.assertEqual(rungs[:3], [("Slow", 1, 4), ("Fast", 5, 8), ("into Fast", 4, 5)])
        self.assertNotIn("into", str([r.name for r in propose_ladder(melody(bars=8)).rungs]))

    def test_a_loop_of_a_section_is_judged_at_its_own_tempo(self) -> None:
        part = slow_then_fast(melody(bars=8))
        rung = Rung(name="Fast", first_bar=5, last_bar=8, tempo_percent=80)
        # The Stand tells the tempo of the whole: half of 60, so 56 in bars 5 to 8.
        loop = part_of_loop(part, rung, bpm=30.0, fifths=part.fifths)
        self.assertEqual(loop.tempos.first_bpm, 56.0)
        self.assertAlmostEqual(rung.part(part).tempos.first_bpm, 112.0 * 0.8)
        events = events_from_take(play(loop, Habits(spread_ms=4), seed=2))
        actual = judge(loop, events, level=DEFAULT_LEVEL, needed=80, latency_ms=0.0, has_touch=True)
        self.assertTrue(actual.is_clean)

    def test_without_its_first_section_a_part_begins_at_the_next_tempo(self) -> None:
        part = delete_bars(slow_then_fast(melody(bars=8)), first=1, last=4).part
        self.assertEqual(part.tempos.first_bpm, 112.0)
