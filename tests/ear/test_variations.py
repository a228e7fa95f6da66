"""Variations by rule: other rhythms of one line."""

from unittest import TestCase

from ear.editing.variations import ON_BEATS, RHYTHMS, in_key, rhythm, with_hand
from ear.errors import ValueOutOfRange
from ear.notes import Hand
from tests.ear.parts import beat, melody, melody_in_eighths, two_hands

PARTS = (melody(), melody_in_eighths(), two_hands(), beat())
LEAVES_OUT = {"rest-first", "rest-last", "joined", "off-beats", ON_BEATS.key}


class VariationsTest(TestCase):
    def test_each_rule_makes_another_rhythm_of_the_same_line(self) -> None:
        for part in PARTS:
            made = [rhythm(part, rule.key) for rule in RHYTHMS]
            there = [one for one in made if one is not None]
            self.assertGreaterEqual(len(there), 7)
            self.assertEqual(len({one.notes for one in there}), len(there))
            for rule, one in zip(RHYTHMS, made, strict=True):
                if one is None:
                    continue
                self.assertEqual(len(one.bars), len(part.bars), rule.key)
                self.assertTrue(all(n.end_tick <= part.bars[-1].end_tick + 480 for n in one.notes))
                if rule.key == "twice":
                    self.assertEqual(len(one.notes), 2 * len(part.notes))
                elif rule.key not in LEAVES_OUT:
                    # In order of the moments: which come after which does not change.
                    self.assertEqual(sorted(n.pitch for n in one.notes), sorted(n.pitch for n in part.notes))

    def test_pairs_have_their_shares(self) -> None:
        part = melody_in_eighths()
        for key, second in (("long-short", 360), ("short-long", 120), ("swung", 320)):
            made = rhythm(part, key)
            self.assertEqual({n.onset_tick % 480 for n in made.notes}, {0, second})

    def test_easier_is_what_is_on_a_beat(self) -> None:
        made = rhythm(melody_in_eighths(), ON_BEATS.key)
        self.assertEqual({n.onset_tick % 480 for n in made.notes}, {0})
        self.assertIsNone(rhythm(made, ON_BEATS.key))

    def test_hands_keys_and_what_is_not_there(self) -> None:
        left = with_hand(two_hands(), Hand.LEFT)
        self.assertEqual({n.hand for n in left.notes}, {Hand.LEFT})
        self.assertIsNone(with_hand(melody(), Hand.LEFT))
        self.assertEqual(in_key(melody(), 2).fifths, 2)
        with self.assertRaises(ValueOutOfRange):
            rhythm(melody(), "sideways")
