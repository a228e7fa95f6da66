"""The tools of the Bench: a part in, a part out."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.editing import bars, cleaning, dragging, drawing, hands, lengths, quantise, transpose, velocities
from ear.editing.cleaning import NoteTrouble
from ear.editing.edited import ALL
from ear.editing.lanes import lanes_as_text, name_lanes
from ear.editing.picking import next_note, pick
from ear.editing.step_grid import step_grid
from ear.editing.sticking import Sticking, stick
from ear.errors import EarError, ValueOutOfRange
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.labels.typed_names import read_name
from ear.notes import (
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    Section,
    TempoChange,
    TempoMap,
    WrittenForm,
    folded,
)  # fmt: skip
from ear.players.robot import Habits, play
from ear.summary import summary
from tests.ear.parts import beat, melody, two_hands

FEW = settings(max_examples=40)
METERS = MeterMap(
    [
        MeterChange(bar=1, meter=Meter(numerator=4, denominator=4)),
        MeterChange(bar=3, meter=Meter(numerator=6, denominator=8)),
        MeterChange(bar=5, meter=Meter(numerator=3, denominator=4)),
    ]
)
TEMPOS = TempoMap([TempoChange(tick=0, bpm=90), TempoChange(tick=3840, bpm=120)])


@st.composite
def parts(draw: st.DrawFn) -> Part:
    """Notes anywhere in six bars of three meters, each inside its bar; no two alike."""
    notes = []
    for onset, length, pitch, velocity in draw(
        st.lists(
            st.tuples(st.integers(0, 9000), st.integers(1, 900), st.integers(40, 80), st.integers(1, 127)),
            min_size=1,
            max_size=12,
            unique_by=lambda row: row[2],
        )
    ):
        end = METERS.bar_at(onset).end_tick
        notes.append(
            Note(
                onset_tick=onset, length_tick=min(length, end - onset), pitch=pitch, velocity=velocity,
                hand=draw(st.sampled_from((None, Hand.LEFT, Hand.RIGHT))),
            )
        )  # fmt: skip
    return Part.of(notes, kind=Kind.KEYBOARD, meters=METERS, tempos=TEMPOS, fifths=draw(st.integers(-5, 6)))


def pitches(part: Part) -> list[int]:
    return [n.pitch for n in part.notes]


class DrawingTest(TestCase):
    @given(parts())
    @FEW
    def test_what_is_added_can_be_taken_out(self, part: Part) -> None:
        note = Note(onset_tick=1000, length_tick=240, pitch=100, velocity=70)
        added = drawing.add(part, note)
        (at,) = added.selected
        self.assertEqual(added.part.notes[at], note)
        self.assertEqual(drawing.delete(added.part, added.selected).part, part)

    def test_a_note_dragged_past_others_leaves_them_alone(self) -> None:
        low, high = (Note(onset_tick=0, length_tick=960, pitch=p, velocity=80) for p in (60, 64))
        part = Part.of((low, high), kind=Kind.KEYBOARD, meters=METERS, tempos=TEMPOS)
        # Up to the other one's line, and away from it in time: it is not touched on the way.
        past = dragging.drag(part, frozenset({0}), ticks=1200, steps=2)
        self.assertEqual(past.part.notes, (high, replace(low, onset_tick=1200, pitch=64, name_fifth=4)))
        self.assertEqual(past.selected, {1})
        far = dragging.drag(part, frozenset({1}), ticks=-9000, steps=900)
        self.assertEqual([(n.onset_tick, n.pitch) for n in far.part.notes], [(0, 60), (0, 127)])
        self.assertEqual(dragging.drag(part, ALL, ticks=9, steps=9).part, part)

    @given(parts(), st.integers(-3000, 3000), st.integers(-60, 60))
    @FEW
    def test_moving_keeps_the_shape_and_stays_on_the_keys(
        self, part: Part, ticks: int, semitones: int
    ) -> None:
        moved = drawing.move(part, ALL, ticks=ticks, semitones=semitones).part
        steps = {
            (b.onset_tick - a.onset_tick, b.pitch - a.pitch)
            for a, b in zip(part.notes, moved.notes, strict=True)
        }
        self.assertEqual(len(steps), 1)

    def test_one_key_sounds_once_at_a_time(self) -> None:
        part = melody()
        first = part.notes[0]
        long = drawing.set_length(part, frozenset({0}), ticks=9600).part
        again = next(n for n in part.notes[1:] if n.pitch == first.pitch)
        self.assertEqual(long.notes[0].end_tick, again.onset_tick)
        over = drawing.add(part, replace(first, velocity=3))
        self.assertEqual((len(over.part.notes), over.part.notes[0].velocity), (len(part.notes), 3))

    def test_nothing_selected_deletes_nothing_and_changes_all(self) -> None:
        part = melody()
        self.assertEqual(drawing.delete(part, ALL).part, part)
        louder = drawing.change_velocity(part, ALL, steps=200).part
        self.assertEqual({n.velocity for n in louder.notes}, {127})

    def test_the_selection_follows_its_notes(self) -> None:
        part = melody()
        moved = drawing.move(part, frozenset({0, 1}), ticks=1200)
        self.assertEqual([moved.part.notes[i].pitch for i in sorted(moved.selected)], pitches(part)[:2])


class QuantiseTest(TestCase):
    @given(parts(), st.sampled_from((480, 240, 160, 120)), st.sampled_from((1.0, 1.5, 2.0)))
    @FEW
    def test_onsets_come_to_lines_and_stay_there(self, part: Part, step: int, swing: float) -> None:
        grid = quantise.QuantiseGrid(step=step, swing=swing)
        once = quantise.quantise(part, quantise.plan(part, ALL, grid)).part
        for note in once.notes:
            bar = once.meters.bar_at(note.onset_tick)
            self.assertIn(note.onset_tick - bar.start_tick, grid.lines(bar.meter.bar_ticks))
        again = quantise.plan(once, ALL, grid)
        self.assertEqual([m.to_tick for m in again], [n.onset_tick for n in once.notes])

    @given(parts(), st.floats(0, 1))
    @FEW
    def test_strength_is_the_share_of_the_way(self, part: Part, strength: float) -> None:
        grid = quantise.QuantiseGrid(step=240)
        whole = quantise.plan(part, ALL, grid)
        some = quantise.plan(part, ALL, grid, strength=strength)
        for a, b in zip(whole, some, strict=True):
            self.assertAlmostEqual(b.to_tick - b.from_tick, strength * (a.to_tick - a.from_tick), delta=1)

    def test_a_note_between_two_lines_is_said_to_be_unclear(self) -> None:
        part = drawing.move(melody(), frozenset({1}), ticks=110).part
        moves = quantise.plan(part, ALL, quantise.QuantiseGrid(step=240))
        self.assertEqual([m.note for m in moves if m.is_unclear], [1])

    def test_lengths_go_along_only_if_wanted(self) -> None:
        part = drawing.lengthen(melody(), ALL, ticks=-33).part
        grid = quantise.QuantiseGrid(step=240)
        left = quantise.quantise(part, quantise.plan(part, ALL, grid)).part
        self.assertEqual({n.length_tick for n in left.notes}, {460 - 33})
        both = quantise.quantise(part, quantise.plan(part, ALL, grid, lengths=True)).part
        self.assertEqual({n.length_tick for n in both.notes}, {480})

    def test_the_grid_is_suggested_by_the_shortest_distance(self) -> None:
        self.assertEqual(quantise.suggested_step(melody(), ALL), 480)
        self.assertEqual(quantise.suggested_step(beat(), ALL), 240)
        rough = drawing.move(beat(), frozenset(range(0, 20, 3)), ticks=17).part
        self.assertEqual(quantise.suggested_step(rough, ALL), 240)
        for wrong in (lambda: quantise.QuantiseGrid(step=0), lambda: quantise.QuantiseGrid(step=9, swing=9)):
            self.assertRaises(ValueOutOfRange, wrong)


class BarsTest(TestCase):
    @given(parts(), st.integers(1, 7), st.integers(1, 4))
    @FEW
    def test_empty_bars_come_and_go(self, part: Part, before: int, count: int) -> None:
        before = min(before, len(part.bars) + 1)
        wider = bars.insert_bars(part, before=before, count=count).part
        self.assertEqual(len(wider.bars), len(part.bars) + count)
        back = bars.delete_bars(wider, first=before, last=before + count - 1).part
        self.assertEqual(back.notes, part.notes)
        self.assertEqual([b.meter for b in back.bars], [b.meter for b in part.bars])
        for bar in part.bars:
            self.assertEqual(back.tempos.bpm_at(bar.start_tick), part.tempos.bpm_at(bar.start_tick))

    @given(parts(), st.integers(2, 6))
    @FEW
    def test_what_is_cut_can_be_joined(self, part: Part, bar: int) -> None:
        if bar > len(part.bars):
            return
        head = bars.delete_bars(part, first=bar, last=len(part.bars)).part
        tail = bars.delete_bars(part, first=1, last=bar - 1).part
        self.assertEqual((len(head.bars), len(tail.bars)), (bar - 1, len(part.bars) - bar + 1))
        self.assertEqual(bars.join(head, tail).notes, part.notes)

    def test_repeating_plays_bars_again_with_their_meter(self) -> None:
        part = two_hands(bars=4)
        twice = bars.repeat_bars(part, first=2, last=3, times=2)
        self.assertEqual(len(twice.part.bars), 8)
        by_bar = [
            [
                (n.onset_tick - b.start_tick, n.pitch)
                for n in twice.part.notes
                if b.start_tick <= n.onset_tick < b.end_tick
            ]
            for b in twice.part.bars
        ]
        self.assertEqual(by_bar[1:3], by_bar[3:5])
        self.assertEqual(by_bar[3:5], by_bar[5:7])
        self.assertEqual(len(twice.selected), 2 * sum(len(bar) for bar in by_bar[1:3]))

    def test_endings_are_written_once_each_and_played_out(self) -> None:
        part = melody(bars=8)
        made = bars.repeat_bars(part, first=3, last=6, ending_bars=1).part
        assert made.form is not None
        self.assertEqual(made.form.order, (1, 2, 3, 4, 5, 6, 3, 4, 5, 7, 8, 9))
        self.assertEqual([sorted(made.form.at(bar).ending) for bar in (5, 6, 7, 8)], [[], [1], [2], []])
        written = folded(made)
        assert written is not None
        self.assertEqual((len(made.bars), len(written.bars)), (12, 9))
        # What is changed in the second ending leaves the first alone, and is still written once each.
        last = frozenset(i for i, bar in enumerate(made.bar_of_note) if bar == 10)
        changed = drawing.set_velocity(made, last, velocity=99).part
        self.assertEqual(len(folded(changed).bars), 9)
        reread = read_musicxml(write_musicxml(changed, title="T")).parts[0].part
        self.assertEqual((reread.form, len(reread.notes)), (changed.form, len(changed.notes)))
        thrice = bars.repeat_bars(part, first=1, last=4, times=2, ending_bars=2).part
        self.assertEqual(thrice.form.order, (1, 2, 3, 4, 1, 2, 3, 4, 1, 2, 5, 6, 7, 8, 9, 10))

    def test_other_bars_can_be_repeated_too_but_not_within_a_repeat(self) -> None:
        made = bars.repeat_bars(melody(bars=8), first=5, last=6, ending_bars=1).part
        again = bars.repeat_bars(made, first=1, last=4).part
        self.assertEqual(again.form.order, (1, 2, 3, 4, 1, 2, 3, 4, 5, 6, 5, 7, 8, 9))
        self.assertEqual(len(folded(again).bars), 9)
        after = bars.repeat_bars(again, first=13, last=14).part
        self.assertEqual(after.form.order[-4:], (8, 9, 8, 9))
        within = bars.repeat_bars(again, first=2, last=3).part
        self.assertIsNone(folded(within))
        for wrong in ({"first": 2, "last": 3}, {"first": 13, "last": 14, "times": 16}):
            with self.assertRaises(ValueOutOfRange) as refused:
                bars.repeat_bars(again, **wrong, ending_bars=1)
            self.assertEqual(refused.exception.code, "ending_inside_repeat")
        self.assertRaises(ValueOutOfRange, bars.repeat_bars, melody(bars=4), first=1, last=2, ending_bars=2)

    @given(
        st.lists(
            st.tuples(st.integers(1, 14), st.integers(0, 5), st.integers(2, 3), st.integers(0, 5)),
            min_size=1,
            max_size=3,
        )
    )
    @settings(max_examples=150)
    def test_the_form_of_repeats_follows_from_the_bars_that_are_played_again(self, repeats) -> None:
        form = WrittenForm(bars=8, signs=())
        for first, more, times, ending_bars in repeats:
            if first + more <= len(form.order):
                last = first + more
                form = (
                    form.with_repeat(first=first, last=last, times=times, ending_bars=min(ending_bars, more))
                    or form
                )
        played = [form.first_played[written - 1] for written in form.order]
        again = {k: first for k, first in enumerate(played, start=1) if k != first}
        made = WrittenForm.of_bars(again, bars=len(played))
        self.assertEqual(made, form if form.signs else None)

    def test_sections_move_with_their_bars(self) -> None:
        part = replace(melody(), sections=(Section(bar=1, name="A"), Section(bar=5, name="B")))
        later = bars.insert_bars(part, before=3, count=2).part
        self.assertEqual([(s.bar, s.name) for s in later.sections], [(1, "A"), (7, "B")])
        short = bars.delete_bars(part, first=1, last=4).part
        self.assertEqual([(s.bar, s.name) for s in short.sections], [(1, "B")])

    def test_a_lead_in_can_give_the_beat(self) -> None:
        for part in (melody(), beat()):
            led = bars.lead_in(part, bars=2, with_cue=True)
            self.assertEqual((len(led.part.cues), len(led.part.notes)), (8, len(part.notes)))
            self.assertEqual(len(led.part.bars), len(part.bars) + 2)
            self.assertEqual(len(bars.lead_in(part, bars=1).part.notes), len(part.notes))

    def test_trimming_drops_empty_bars_in_front_and_cuts_what_hangs_over(self) -> None:
        late = bars.insert_bars(melody(), before=1, count=2).part
        hanging = drawing.lengthen(late, frozenset({len(late.notes) - 1}), ticks=80).part
        trimmed = bars.trim_to_bars(hanging).part
        self.assertEqual([n.onset_tick for n in trimmed.notes], [n.onset_tick for n in melody().notes])
        self.assertEqual(trimmed.end_tick, trimmed.bars[-1].end_tick)
        self.assertEqual(len(trimmed.bars), len(melody().bars))

    def test_what_cannot_be_is_refused(self) -> None:
        part = melody()
        for wrong in (
            lambda: bars.delete_bars(part, first=3, last=2),
            lambda: bars.insert_bars(part, before=1, count=0),
            lambda: bars.repeat_bars(part, first=1, last=8, times=60),
            lambda: bars.join(part, beat()),
        ):
            self.assertRaises(ValueOutOfRange, wrong)


class ToolsTest(TestCase):
    @given(parts(), st.integers(-12, 12))
    @FEW
    def test_transposing_goes_and_comes_back(self, part: Part, semitones: int) -> None:
        there = transpose.transpose(part, ALL, semitones=semitones).part
        back = transpose.transpose(there, ALL, semitones=-semitones).part
        self.assertEqual(back.notes, part.notes)
        self.assertEqual((back.fifths - part.fifths) % 12, 0)

    @given(parts(), st.integers(-7, 7))
    @FEW
    def test_a_key_is_reached_by_the_shorter_way(self, part: Part, fifths: int) -> None:
        moved = transpose.to_key(part, fifths=fifths).part
        step = moved.notes[0].pitch - part.notes[0].pitch
        self.assertEqual((moved.fifths, (7 * (fifths - part.fifths) - step) % 12), (fifths, 0))
        self.assertLessEqual(abs(step), 6)

    def test_a_selection_leaves_the_key_alone_and_drums_have_none(self) -> None:
        self.assertEqual(transpose.transpose(melody(), frozenset({0}), semitones=2).part.fifths, 0)
        self.assertRaises(ValueOutOfRange, transpose.transpose, beat(), ALL, semitones=1)
        self.assertRaises(ValueOutOfRange, transpose.transpose, melody(), ALL, semitones=60)

    def test_legato_reaches_the_next_note_of_the_hand(self) -> None:
        part = lengths.scale_lengths(two_hands(), ALL, share=0.3).part
        joined = lengths.legato(part, ALL).part
        for hand in (Hand.LEFT, Hand.RIGHT):
            line = sorted({(n.onset_tick, n.end_tick) for n in joined.notes if n.hand is hand})
            self.assertEqual([end for _, end in line[:-1]], [onset for onset, _ in line[1:]])

    def test_accents_ramps_and_evening(self) -> None:
        part = velocities.even_out(melody(), ALL).part
        self.assertEqual(len({n.velocity for n in part.notes}), 1)
        strong = velocities.accent(part, ALL, where=velocities.Accent.FIRST_BEATS, steps=20)
        self.assertEqual(len(strong.selected), len(part.bars))
        off = velocities.accent(beat(), ALL, where=velocities.Accent.OFF_BEATS, steps=5)
        self.assertTrue(all(off.part.notes[i].onset_tick % 480 for i in off.selected))
        # Of an accented first note the accent counts once: it stands as far over the start as before.
        accented = part.with_notes(
            [replace(n, velocity=110 if i == 0 else 80) for i, n in enumerate(part.notes)]
        )
        grown = velocities.ramp(accented, ALL, first=None, last=110).part.notes
        self.assertEqual((grown[0].velocity, grown[-1].velocity), (110, 110))
        self.assertEqual(grown[1].velocity - 80, round(30 * 1 / (len(grown) - 1)))
        grown = velocities.ramp(part, ALL, first=40, last=110).part
        self.assertEqual((grown.notes[0].velocity, grown.notes[-1].velocity), (40, 110))
        self.assertEqual(sorted(n.velocity for n in grown.notes), [n.velocity for n in grown.notes])

    def test_cleaning_takes_out_second_triggers_and_grazes(self) -> None:
        part = melody()
        first = part.notes[0]
        dirty = part.with_notes(
            [
                *part.notes,
                replace(first, onset_tick=50, length_tick=30, velocity=40),
                Note(onset_tick=500, length_tick=20, pitch=30, velocity=15),
            ]
        )
        self.assertEqual(pitches(cleaning.clean(dirty, ALL).part), pitches(part))
        self.assertEqual(cleaning.clean(part, ALL).part, part)

    def test_each_trouble_is_found_picked_and_mended_in_its_own_way(self) -> None:
        first = melody().notes[0]
        part = melody(bars=2).with_notes(
            replace(first, onset_tick=tick, length_tick=length, pitch=pitch, velocity=velocity)
            for tick, length, pitch, velocity in (
                (0, 900, 60, 80), (480, 400, 60, 80), (510, 90, 60, 30), (960, 20, 64, 9), (1465, 300, 65, 70),
                (1500, 60, 67, 70), (1920, 460, 72, 80), (1930, 90, 73, 50), (1920, 450, 74, 60),
            )
        )  # fmt: skip
        actual = cleaning.troubles(part)
        self.assertEqual(
            {trouble: sorted(notes) for trouble, notes in actual.items()},
            {
                NoteTrouble.DOUBLE: [2],
                NoteTrouble.TINY: [3],
                NoteTrouble.SLIP: [8],
                NoteTrouble.OVERLAP: [0],
                NoteTrouble.OFF_GRID: [4],
            },
        )
        for trouble, notes in actual.items():
            self.assertEqual(pick(part, trouble=trouble), notes)
        self.assertEqual(cleaning.mended(part, {}), part)
        whole = cleaning.mended(part, actual)
        self.assertEqual(
            [(n.onset_tick, n.length_tick, n.pitch) for n in whole.notes],
            [(0, 480, 60), (480, 400, 60), (1440, 300, 65), (1500, 60, 67), (1920, 460, 72), (1920, 450, 74)],
        )
        # Two strokes of one key that are moved onto one line are one.
        near = part.with_notes(replace(part.notes[0], onset_tick=tick, length_tick=10) for tick in (61, 130))
        self.assertEqual(
            [n.onset_tick for n in cleaning.mended(near, {NoteTrouble.OFF_GRID: {0, 1}}).notes], [120]
        )
        self.assertEqual(pick(part, shorter_than=90), {3, 5})
        self.assertEqual(pick(part, softer_than=31), {2, 3})
        self.assertEqual(pick(part, off_by_more_than=24), {2, 4})
        kept = cleaning.clean(part, frozenset({2, 4}), [NoteTrouble.DOUBLE, NoteTrouble.TINY])
        self.assertEqual((len(kept.part.notes), kept.selected), (8, frozenset({3})))

    def test_lanes_are_named_and_put_in_order_as_the_lines_say(self) -> None:
        part = beat()
        self.assertEqual(lanes_as_text(part), "hat\nsnare\nkick")
        named = name_lanes(part, " kick =  bass drum \n\nSnare\n")
        self.assertEqual((named.lane_name(36), named.lane_name(35), named.lane_name(38), named.lane_name(42)),
                         ("bass drum", "bass drum", "snare", "hat"))  # fmt: skip
        self.assertEqual(lanes_as_text(named), "kick = bass drum\nsnare\nhat")
        self.assertEqual(
            [row.pitch for row in step_grid(named, first_bar=1, last_bar=1, step_ticks=240).rows][:2],
            [36, 38],
        )
        self.assertEqual(read_name("bass.drum", named), 36)
        self.assertEqual(part_from_json(part_to_json(named)), named)
        self.assertNotIn("lanes", part_to_json(part))
        self.assertEqual(name_lanes(named, "").lanes, ())
        moved = bars.repeat_bars(named, first=1, last=1).part
        self.assertEqual(moved.lanes, named.lanes)
        take = play(named, Habits(late_lanes=((36, 45.0),), spread_ms=3), seed=2)
        self.assertIn("bass drum", summary(assess(named, take)))
        for wrong in ("gong", "kick = snare", "kick\nkick", f"kick = {'x' * 25}", "kick = a\nsnare = a"):
            with self.assertRaises(EarError):
                name_lanes(part, wrong)
        self.assertRaises(ValueOutOfRange, name_lanes, melody(), "kick")

    def test_hands_are_split_at_a_pitch(self) -> None:
        split = hands.split_hands(melody(), ALL, at_pitch=65).part
        self.assertTrue(all((n.hand is Hand.RIGHT) is (n.pitch >= 65) for n in split.notes))
        self.assertRaises(ValueOutOfRange, hands.split_hands, beat(), ALL, at_pitch=60)


class PickingTest(TestCase):
    def test_by_bars_hand_lane_and_height(self) -> None:
        part = two_hands(bars=4)
        left = pick(part, first_bar=2, last_bar=3, hand=Hand.LEFT)
        self.assertTrue(left)
        for i, note in enumerate(part.notes):
            inside = 2 <= part.bar_of_note[i] <= 3 and note.hand is Hand.LEFT
            self.assertEqual(i in left, inside)
        snare = pick(beat(bars=2), lane="snare")
        self.assertEqual({beat(bars=2).notes[i].pitch for i in snare}, {38})
        high = pick(melody(), from_pitch=67)
        self.assertEqual(high, {i for i, n in enumerate(melody().notes) if n.pitch >= 67})
        self.assertEqual(pick(part), frozenset(range(len(part.notes))))

    def test_the_next_note_stops_at_both_ends(self) -> None:
        part = melody(bars=1)
        self.assertEqual(next_note(part, ALL), {0})
        self.assertEqual(next_note(part, ALL, forward=False), {3})
        self.assertEqual(next_note(part, frozenset({1, 2})), {3})
        self.assertEqual(next_note(part, frozenset({3})), {3})
        self.assertEqual(next_note(part, frozenset({0}), forward=False), {0})
        self.assertEqual(next_note(part.with_notes(()), ALL), ALL)


class StickingTest(TestCase):
    @staticmethod
    def strokes(*pitches: int, together: int = 0) -> Part:
        notes = [
            Note(onset_tick=120 * k, length_tick=60, pitch=p, velocity=90) for k, p in enumerate(pitches)
        ]
        notes += [Note(onset_tick=0, length_tick=60, pitch=together, velocity=90)] if together else []
        return beat().with_notes(notes)

    def words(self, part: Part, pattern: Sticking, **more: bool) -> str:
        return "".join(n.label or "-" for n in stick(part, ALL, pattern=pattern, **more).part.notes)

    def test_patterns_go_on_as_they_are_called(self) -> None:
        part = self.strokes(*[38] * 16)
        for pattern, wanted in (
            (Sticking.SINGLE, "RLRLRLRLRLRLRLRL"), (Sticking.DOUBLE, "RRLLRRLLRRLLRRLL"),
            (Sticking.PARADIDDLE, "RLRRLRLLRLRRLRLL"), (Sticking.DOUBLE_PARADIDDLE, "RLRLRRLRLRLLRLRL"),
            (Sticking.PARADIDDLE_DIDDLE, "RLRRLLRLRRLLRLRR"),
        ):  # fmt: skip
            self.assertEqual(self.words(part, pattern), wanted)
        self.assertEqual(self.words(part, Sticking.PARADIDDLE, left_first=True), "LRLLRLRRLRLLRLRR")

    def test_feet_have_none_and_two_at_once_have_both_hands(self) -> None:
        self.assertEqual(self.words(self.strokes(38, 36, 38, 44, 38), Sticking.SINGLE), "R-L-R")
        self.assertEqual(self.words(self.strokes(38, 38, together=42), Sticking.SINGLE), "LRL")
        # Hat and snare struck together again and again: the hands stay where they are.
        both = self.strokes(38, 38, 38)
        hats = [replace(n, pitch=42) for n in both.notes]
        both = both.with_notes([n for pair in zip(both.notes, hats, strict=True) for n in pair])
        self.assertEqual(self.words(both, Sticking.SINGLE), "LRLRLR")
        self.assertEqual(self.words(both, Sticking.PARADIDDLE, left_first=True), "RLRLRL")
        self.assertRaises(ValueOutOfRange, stick, melody(), ALL, pattern=Sticking.SINGLE)
