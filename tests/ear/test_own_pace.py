"""Practice at the player's own pace: what waits, what moves on, what counts as wrong, what is worth looping."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.errors import ValueOutOfRange
from ear.formats.events import RawEvent
from ear.notes import Part
from ear.recording.own_pace import pace_steps, walk
from tests.ear.parts import beat, melody, two_hands

ON, OFF = 0x90, 0x80


def strokes(*names: int) -> list[RawEvent]:
    """Keys struck one after the other, each held; one with a minus sign is let go."""
    return [(100.0 * k, ON if key > 0 else OFF, abs(key), 80) for k, key in enumerate(names)]


def chord_part() -> Part:
    """A chord of three notes, then one of its keys again."""
    part = two_hands(bars=1)
    first = part.notes[0]
    return part.with_notes(
        [
            *(replace(first, pitch=pitch, onset_tick=0) for pitch in (60, 64, 67)),
            replace(first, pitch=64, onset_tick=960),
        ]
    )


class OwnPaceTest(TestCase):
    def test_chords_come_in_any_order_and_all_keys_must_be_down_together(self) -> None:
        part = chord_part()
        for keys, done in (
            ((67, 60, 64), 1),
            ((60, 64, -60, 67), 0),
            ((60, 64, -60, 67, 60), 1),
            # A key that is still down has to be struck again.
            ((60, 64, 67, -60), 1),
            ((60, 64, 67, -64, 64), 2),
            ((60, 64, 67, 64), 2),
        ):
            with self.subTest(keys):
                result = walk(part, strokes(*keys))
                self.assertEqual((result.done, result.wrong_keys), (done, 0))
        self.assertTrue(walk(part, strokes(60, 64, 67, 64)).is_clean)

    def test_wrong_keys_count_at_their_step_and_hold_nothing_up(self) -> None:
        part = chord_part()
        result = walk(part, strokes(60, 61, 64, 67, 65, 65, 64))
        self.assertEqual((result.wrong, result.is_complete, result.is_clean), ((1, 2), True, False))
        # What is played behind the end is not counted.
        self.assertEqual(walk(part, strokes(60, 64, 67, 64, 61)).wrong_keys, 0)

    def test_a_kit_is_followed_by_lanes_and_nothing_is_held(self) -> None:
        part = beat(bars=1)
        steps = pace_steps(part)
        self.assertEqual(steps[0].keys, {"kick", "hat"})
        other_hat = 44
        events = strokes(other_hat, -other_hat, 36)
        self.assertEqual(walk(part, events).done, 1)
        self.assertEqual(walk(part, strokes(38)).wrong[0], 1)

    def test_the_passage_to_loop_is_where_most_keys_are_wrong(self) -> None:
        part = melody(bars=6)
        by_bar = {2: 1, 3: 4, 4: 2, 6: 3}
        keys: list[int] = []
        seen: set[int] = set()
        for note, bar in zip(part.notes, part.bar_of_note, strict=True):
            if bar not in seen:
                seen.add(bar)
                keys += [1] * by_bar.get(bar, 0)
            keys += [note.pitch, -note.pitch]
        result = walk(part, strokes(*keys))
        self.assertEqual(result.wrong_by_bar, by_bar)
        self.assertEqual(result.suggested_bars, (3, 4))
        moved = walk(part, strokes(*keys), first_bar=11)
        self.assertEqual(moved.suggested_bars, (13, 14))
        self.assertIsNone(walk(part, []).suggested_bars)
        self.assertRaises(ValueOutOfRange, walk, part.with_notes(()), [])

    @given(st.lists(st.integers(58, 70), max_size=60), st.sampled_from((melody(bars=2), two_hands(bars=2))))
    def test_whatever_is_played_it_never_goes_back_and_every_stroke_is_counted_once(
        self, keys: list[int], part: Part
    ) -> None:
        done = 0
        for k in range(len(keys) + 1):
            result = walk(part, strokes(*keys[:k]))
            self.assertGreaterEqual(result.done, done)
            self.assertLessEqual(result.wrong_keys, k)
            done = result.done
        # With all keys of each step, it always reaches the end.
        whole = [key for step in pace_steps(part) for key in sorted(map(int, step.keys))]
        self.assertTrue(walk(part, strokes(*whole)).is_clean)
