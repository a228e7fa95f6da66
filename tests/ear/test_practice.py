"""Recording rules, ladders, and variations."""

from dataclasses import replace
from unittest import TestCase

from ear.editing.comparing import compare
from ear.editing.drawing import delete
from ear.errors import FormatError, ValueOutOfRange
from ear.notes import ChordMark, Hand, Note
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.grooves import GrooveFeel, groove
from ear.practice.ladder import Ladder, Rung
from ear.practice.proposals import propose_ladder
from ear.practice.rules import ClickSound, RecordingRules, SoundChoice
from tests.ear.parts import GROOVES, beat, melody, two_hands


class RulesTest(TestCase):
    def test_a_recording_counts_before_the_middle_of_a_short_part(self) -> None:
        rules = RecordingRules(least_bars=4)
        self.assertEqual([rules.counts_after(bars) for bars in (1, 3, 8, 20)], [0, 1, 4, 4])

    def test_only_what_is_unusual_is_stored_and_comes_back(self) -> None:
        self.assertEqual(RecordingRules().to_json(), {})
        rules = RecordingRules(
            slower_percent=20,
            click_sound=ClickSound.BELL,
            sounds=(SoundChoice.ORGAN,),
            attempts=4,
            least_takes=2,
        )
        self.assertEqual(RecordingRules.from_json(rules.to_json()), rules)
        self.assertEqual(rules.tempo_range(100), (80, 100))
        self.assertEqual(RecordingRules(faster_percent=50).tempo_range(390), (390, 400))

    def test_what_cannot_be_is_refused(self) -> None:
        for wrong in (
            {"click_level": 101}, {"passes": 0}, {"attempts": 0}, {"attempts": 1, "least_takes": 2}, {"click_divides": 5},
        ):  # fmt: skip
            self.assertRaises(ValueOutOfRange, RecordingRules, **wrong)
            self.assertRaises(FormatError, RecordingRules.from_json, wrong)
        for wrong in (
            [],
            {"tempo": 3},
            {"click_sound": "gong"},
            {"sounds": ["lute"]},
            {"click_level": "loud"},
        ):
            self.assertRaises(FormatError, RecordingRules.from_json, wrong)


class LadderTest(TestCase):
    def test_a_rung_is_its_bars_hand_and_lanes_at_its_tempo(self) -> None:
        whole = two_hands()
        rung = Rung(name="left", first_bar=3, last_bar=4, hand=Hand.LEFT, tempo_percent=60)
        part = rung.part(whole)
        self.assertEqual((len(part.bars), part.tempos.first_bpm), (2, 60))
        start = whole.bars[2].start_tick
        wanted = [
            n for n in whole.notes if n.hand is Hand.LEFT and start <= n.onset_tick < whole.bars[4].start_tick
        ]
        self.assertEqual(
            [(n.onset_tick + start, n.pitch) for n in part.notes], [(n.onset_tick, n.pitch) for n in wanted]
        )
        drums = Rung(name="two", first_bar=1, last_bar=1, lanes=("snare",)).part(beat())
        self.assertEqual({n.pitch for n in drums.notes}, {38})
        second = Rung(name="m", first_bar=1, last_bar=1, moves=(2, 2)).part(
            groove(GrooveFeel.EIGHTHS, variation=2, bars=2)
        )
        self.assertEqual({n.onset_tick for n in second.notes}, {240})
        self.assertRaises(ValueOutOfRange, Rung(name="x", first_bar=1, last_bar=99).part, whole)

    def test_ladders_are_proposed_as_teachers_make_them(self) -> None:
        chords = [r.name for r in propose_ladder(chord_sequence(read_sequence("C | Am | F | C"))).rungs]
        self.assertEqual(chords[:3], ["C", "Am", "F"])
        self.assertEqual(chords[3:6], ["C to Am", "Am to F", "F to C"])
        tune = melody(bars=2)
        under_names = replace(tune, chords=(ChordMark(tick=0, name="C"), ChordMark(tick=1920, name="F")))
        self.assertEqual(propose_ladder(under_names), propose_ladder(tune))
        drums = [r.name for r in propose_ladder(groove(GrooveFeel.EIGHTHS, variation=2, bars=2)).rungs]
        self.assertEqual(drums[:2], ["move 1: kick + hat", "move 2: hat"])
        self.assertIn("moves 1 to 3", drums)
        # Every move has its rung, and the last of the joined ones has them all.
        part = beat()
        moves = len({n.onset_tick for i, n in enumerate(part.notes) if part.bar_of_note[i] == 1})
        spans = [rung.moves for rung in propose_ladder(part).rungs if rung.moves]
        self.assertEqual(spans[:moves], [(k, k) for k in range(1, moves + 1)])
        self.assertEqual(spans[-1], (1, moves))
        notes = [
            Note(onset_tick=60 * k, length_tick=30, pitch=(38, 42)[k % 2], velocity=80) for k in range(32)
        ]
        ladder = propose_ladder(beat().with_notes(notes))
        self.assertEqual(ladder.rungs[0].moves, (1, 2))
        self.assertFalse(
            any(rung.moves for rung in propose_ladder(beat().with_notes(notes[::2])).rungs), "one lane"
        )
        self.assertEqual([r.name for r in propose_ladder(part, by_moves=False).rungs], drums[-5:])
        self.assertEqual(ladder.rungs[-1].moves, None)
        self.assertEqual(drums[-4:], ["with hat", "all, slowly", "all", "a little faster"])
        hands = [r.name for r in propose_ladder(two_hands()).rungs]
        self.assertEqual(
            hands[:3], ["bars 1 to 4, right hand", "bars 1 to 4, left hand", "bars 1 to 4, together"]
        )
        self.assertEqual(propose_ladder(melody(bars=0)), Ladder())

    def test_each_proposed_rung_can_be_played_and_comes_back(self) -> None:
        for part in (
            melody(),
            two_hands(),
            beat(),
            *GROOVES,
            chord_sequence(read_sequence("C|G")),
        ):
            ladder = propose_ladder(part)
            self.assertTrue(ladder.rungs)
            for rung in ladder.rungs:
                self.assertTrue(rung.part(part).notes, rung)
            self.assertEqual(Ladder.from_json(ladder.to_json(), part), ladder)
        for wrong in (
            {},
            [1],
            [{"name": "x"}],
            [{**ladder.rungs[0].to_json(), "loops": 0}],
            [ladder.rungs[0].to_json()] * 41,
        ):
            self.assertRaises(FormatError, Ladder.from_json, wrong)


class VariationTest(TestCase):
    def test_new_and_left_out_notes_are_told(self) -> None:
        origin = beat()
        self.assertEqual(compare(origin, origin).new, frozenset())
        fewer = delete(origin, frozenset({3, 5})).part
        self.assertEqual(compare(origin, fewer).left_out, {3, 5})
        self.assertEqual(compare(fewer, origin).new, {3, 5})
