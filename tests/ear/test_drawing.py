"""The Page view's layout, as data."""

from collections.abc import Sequence
from dataclasses import replace
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.assess import assess
from ear.drawing.boxes import EarMark, Flag, NoteBox, overlay_of
from ear.drawing.crowding import HIGHEST, LABELS_LINE, MIN_WIDTH, OVER_NOTE
from ear.drawing.page import OVER_STAFF, page_view
from ear.drawing.placing import place_at
from ear.drawing.rows import rows_of
from ear.editing.drawing import set_finger
from ear.editing.edited import ALL
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.sections import set_section
from ear.labels import LabelKind
from ear.notes import (
    STANDARD_KIT,
    ChordMark,
    Hand,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Ornament,
    Part,
    TempoMap,
    spell,
)
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.lines import five_finger
from ear.patterns.modes import Tonic
from ear.players.robot import Habits, play
from ear.staves import SPACE, staves_of
from tests.ear.parts import beat, melody, two_hands
from tests.ear.test_musicxml import with_endings

WIDTH = 860.0


def part_of(*pitches: int, fifths: int = 0) -> Part:
    notes = [Note(onset_tick=480 * k, length_tick=400, pitch=p, velocity=80) for k, p in enumerate(pitches)]
    return Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90), fifths=fifths)


class MeterChangeTest(TestCase):
    def test_a_grace_note_is_drawn_small_at_its_own_pitch_just_before_its_note(self) -> None:
        part = melody(bars=1)
        for semitones, words, has_sign in (
            (None, "grace note", False),
            (1, "grace note C♯5", True),
            (-12, "grace note C4", False),
        ):
            graced = replace(
                part.notes[1], pitch=72, name_fifth=None, ornament=Ornament.GRACE, grace_semitones=semitones
            )
            row = page_view(part.with_notes([part.notes[0], graced, *part.notes[2:]]), width=860.0).rows[0]
            (small,) = row.cues
            self.assertTrue(small.words.startswith(words), small.words)
            self.assertEqual(small.accidental is not None, has_sign)
            self.assertTrue(row.targets[0].x < small.x < small.x + small.width <= row.targets[1].x)
            above = row.targets[1].y - small.y
            self.assertTrue(above < 0 if semitones == -12 else above >= 0)
            self.assertEqual(row.targets[1].labels, ())

    def test_signs_of_a_new_meter_stand_behind_the_bar_line_and_over_no_note(self) -> None:
        meters = MeterMap(
            [
                MeterChange(bar=1, meter=Meter(numerator=4, denominator=4)),
                MeterChange(bar=2, meter=Meter(numerator=3, denominator=4)),
            ]
        )
        notes = [Note(onset_tick=480 * k, length_tick=480, pitch=60, velocity=80) for k in range(7)]
        part = replace(melody(bars=1), meters=meters, least_bars=2).with_notes(notes)
        [row] = page_view(part, width=900.0).rows
        first, second = row.box.bars
        signs = [sign.x for sign in row.meters if sign.x > first.x]
        last = max((n for n in row.targets if n.x < second.line_x), key=lambda n: n.x)
        self.assertLess(last.x + last.width, second.line_x + 0.1)
        self.assertTrue(signs)
        self.assertTrue(all(second.line_x < x < second.x - 8 for x in signs))


class RowsTest(TestCase):
    def test_bars_wrap_and_every_tick_has_a_place(self) -> None:
        rows = rows_of(melody(bars=10), left=100, right=850)
        self.assertEqual([len(r.bars) for r in rows], [4, 4, 2])
        self.assertEqual(rows[1].bars[0].number, 5)
        self.assertEqual(rows[0].x(0), 100)
        self.assertAlmostEqual(rows[0].x(4 * 1920), 850)
        self.assertAlmostEqual(rows[2].bars[0].width, rows[0].bars[0].width)

    def test_dense_parts_have_fewer_bars_a_row(self) -> None:
        notes = [Note(onset_tick=120 * k, length_tick=100, pitch=60, velocity=80) for k in range(64)]
        dense = Part.of(notes, kind=Kind.KEYBOARD, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90))
        self.assertLess(len(rows_of(dense, left=100, right=850)[0].bars), 4)

    def test_an_empty_part_is_one_empty_bar(self) -> None:
        page = page_view(part_of(), width=WIDTH)
        self.assertEqual(len(page.rows), 1)
        self.assertEqual(page.rows[0].targets, ())


class StavesTest(TestCase):
    def test_notes_stand_where_a_musician_reads_them(self) -> None:
        staves = staves_of(part_of(60, 72), kit=STANDARD_KIT)
        table = [(64, 0), (67, 2), (77, 8), (60, -2), (81, 10)]  # E4 bottom line, F5 top line
        for pitch, step in table:
            self.assertEqual(staves.place(pitch).step, step, pitch)
        self.assertEqual(staves.place(60).ledger_steps, (-2,))
        self.assertEqual(staves.place(81).ledger_steps, (10,))

    def test_which_staves_a_part_needs(self) -> None:
        for part, clefs in (
            (part_of(60, 64), ["treble"]),
            (part_of(), ["treble"]),
            (part_of(40, 48), ["bass"]),
            (part_of(55, 57, 59, 60), ["bass"]),
            (part_of(60, 62, 64, 65), ["treble"]),
            (part_of(57, 62, 64, 66), ["treble"]),
            (part_of(40, 76), ["treble", "bass"]),
            (two_hands(), ["treble", "bass"]),
            (beat(), ["percussion"]),
        ):
            self.assertEqual([c.name for c in staves_of(part, kit=STANDARD_KIT).clefs], clefs)

    def test_the_left_hand_sits_on_its_own_staff(self) -> None:
        staves = staves_of(two_hands(), kit=STANDARD_KIT)
        self.assertEqual(staves.place(62, hand=Hand.LEFT).staff, 1)
        self.assertEqual(staves.place(55, hand=Hand.RIGHT).staff, 0)

    def test_accidentals_follow_key_and_bar(self) -> None:
        """In D: F♯ needs none, F natural one, the next F natural of the bar none, F♯ again one."""
        part = part_of(66, 65, 65, 66, 66, fifths=2)
        part = part.with_notes(replace(n, name_fifth=-1 if n.pitch == 65 else 6) for n in part.notes)
        page = page_view(part, width=WIDTH)
        signs = [n.accidental.glyph if n.accidental else None for n in page.rows[0].targets]
        self.assertEqual(signs, [None, "natural", None, "sharp", None])
        self.assertEqual([s.glyph for s in page.rows[0].staves[0].key], ["sharp", "sharp"])

    def test_high_rows_are_written_an_octave_lower(self) -> None:
        page = page_view(part_of(96, 98, 100), width=WIDTH)
        self.assertEqual(page.rows[0].staves[0].octave, "8va")


class OverlayTest(TestCase):
    def overlaid(self, part: Part, habits: Habits, **more):
        take = play(part, habits, seed=2)
        a = assess(part, take)
        overlay = overlay_of(take, a.facts, a.judgement)
        return page_view(part, width=WIDTH, overlay=overlay, **more), a

    def test_every_note_of_target_and_take_is_drawn_once(self) -> None:
        for part in (melody(), two_hands(), beat()):
            page, a = self.overlaid(part, Habits(spread_ms=20, wrong_keys=0.1, misses=0.1, doubles=0.1))
            targets = [n.id for row in page.rows for n in row.targets]
            takes = [n.id for row in page.rows for n in row.takes]
            self.assertEqual(sorted(targets), sorted(f"t{i}" for i in range(len(part.notes))))
            self.assertEqual(sorted(takes), sorted(f"k{j}" for j in range(a.facts.take.notes)))

    def test_an_early_note_is_drawn_left_of_its_place_and_above_the_line(self) -> None:
        page, _ = self.overlaid(melody(), Habits(lead_ms=-80))
        row = page.rows[0]
        where = {n.id: n for n in row.takes}
        for k, target in enumerate(row.targets):
            self.assertLess(where[f"k{k}"].x, target.x)
        self.assertTrue(all(m.y < m.line_y and m.state == "early" for m in row.drift.marks))

    def test_a_wrong_key_is_joined_to_its_place(self) -> None:
        page, a = self.overlaid(melody(), Habits(wrong_keys=0.2, spread_ms=3))
        joined = [n for row in page.rows for n in row.takes if n.join]
        self.assertEqual(len(joined), a.facts.counts.wrong_pitch)
        # On another step, or told apart by a sign.
        self.assertTrue(all(abs(n.y - n.join[1]) >= SPACE / 2 or n.accidental for n in joined))

    def test_drums_have_a_line_for_each_lane(self) -> None:
        page, _ = self.overlaid(beat(), Habits(spread_ms=5))
        self.assertEqual([line.label for line in page.rows[0].drift.lines], ["hat", "snare", "kick"])

    def test_brackets_and_flags_keep_clear_of_the_strips(self) -> None:
        page, _ = self.overlaid(
            melody(), Habits(spread_ms=5),
            ear_marks=[EarMark(letter="A", tone="late", targets=(1, 2, 3))], flags=[Flag(number=1, tick=1920)],
        )  # fmt: skip
        row = page.rows[0]
        self.assertEqual([b.letter for b in row.brackets], ["A"])
        self.assertGreater(row.brackets[0].y, row.staff_bottom)
        self.assertLess(row.brackets[0].y + 9, row.drift.top)
        self.assertEqual(row.flags[0].x, row.box.x(1920))
        self.assertLess(row.drift.bottom, row.weight.top)


class PlacingTest(TestCase):
    def test_where_a_note_is_drawn_it_is_found_again(self) -> None:
        """Save for accidentals: a line means what the key makes of it."""
        for part in (melody(), two_hands(), beat()):
            page, staves = page_view(part, width=WIDTH), staves_of(part, kit=STANDARD_KIT)
            drawn = {int(box.id[1:]): box for row in page.rows for box in row.targets}
            tops = {int(box.id[1:]): row.top for row in page.rows for box in row.targets}
            for i, note in enumerate(part.notes):
                actual = place_at(part, page, x=drawn[i].x + 1, y=tops[i] + drawn[i].y, grid_ticks=240)
                with self.subTest(kind=part.kind, note=i):
                    assert actual is not None
                    self.assertEqual((actual.tick, actual.hand), (note.onset_tick, note.hand))
                    written = staves.place(note.pitch, hand=note.hand)
                    if staves.is_written_by_key(written):
                        self.assertEqual(actual.pitch, note.pitch)
                    else:
                        self.assertEqual(abs(actual.pitch - note.pitch), 1)

    def test_the_key_gives_its_sharps_and_nothing_stands_beside_the_bars(self) -> None:
        part = replace(melody(), fifths=2)
        page = page_view(part, width=WIDTH)
        row = page.rows[0]
        top_line = row.staves[0].lines[0]
        actual = place_at(part, page, x=row.bars[0].x + 1, y=top_line, grid_ticks=480)
        self.assertEqual((actual.tick, actual.pitch), (0, 78))
        for x, y in ((2.0, top_line), (row.box.right + 3, top_line), (row.bars[0].x + 1, page.height + 9)):
            self.assertIsNone(place_at(part, page, x=x, y=y, grid_ticks=480))

    def test_where_the_written_form_goes_back_is_said_over_the_bar(self) -> None:
        part = with_endings()
        named = set_section(part, bar=3, name="Again")
        for drawn, told in (
            (part, [("", 1, True), ("", 3, False), ("", 4, True)]),
            (named, [("Again", None, False)]),
        ):
            rows = page_view(drawn, width=900).rows
            self.assertEqual([(s.name, s.written, s.is_again) for row in rows for s in row.sections], told)

    def test_fingers_and_sections_are_written_over_a_part_alone(self) -> None:
        part = key_chain(five_finger(Tonic.named("C")), order=KeyOrder.FIFTHS, keys=2)
        rows = page_view(part, width=WIDTH).rows
        self.assertEqual([n.labels[0][0].text for row in rows for n in row.targets][:3], ["1", "2", "3"])
        self.assertEqual([len(row.staves[0].key) for row in rows], [0, 1])
        bars = {bar.number: bar.x for row in rows for bar in row.bars}
        actual = [(s.name, s.x) for row in rows for s in row.sections]
        self.assertEqual(actual, [("C", bars[1]), ("G", bars[5])])


class CrowdedTest(TestCase):
    """Chords, clusters and accidentals: nothing lies over anything, in narrow bars as in wide ones."""

    @staticmethod
    def part(chords: list[set[int]], *, fifths: int = 0, ticks: int = 960) -> Part:
        notes = [
            Note(onset_tick=k * ticks, length_tick=ticks, pitch=p, velocity=80, hand=Hand.RIGHT)
            for k, chord in enumerate(chords) for p in chord
        ]  # fmt: skip
        return replace(melody().with_notes(notes), fifths=fifths)

    @staticmethod
    def area(note: NoteBox) -> tuple[float, float, float, float]:
        return note.x, note.y - note.height / 2, note.x + note.width, note.y + note.height / 2

    @staticmethod
    def over(a: tuple[float, float, float, float], b: tuple[float, float, float, float]) -> bool:
        return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]

    @given(st.lists(st.sets(st.integers(60, 79), min_size=2, max_size=5), min_size=4, max_size=16), st.integers(-5, 5),
           st.sampled_from((480, 960, 1920)))  # fmt: skip
    def test_no_note_lies_over_another_and_no_sign_over_a_sign(
        self, chords: list[set[int]], fifths: int, ticks: int
    ) -> None:
        part = self.part(chords, fifths=fifths, ticks=ticks)
        steps = [spell(n.pitch, name_fifth=f).step for n, f in zip(part.notes, part.names, strict=True)]
        for row in page_view(part, width=WIDTH).rows:
            boxes = row.targets
            at = [steps[int(b.id[1:])] for b in boxes]
            for i, a in enumerate(boxes):
                for b, step in zip(boxes[i + 1 :], at[i + 1 :], strict=True):
                    # A line or space that two notes share beside a third one is more than four pixels can part.
                    shared = {s for s in at if at.count(s) > 1}
                    if not {at[i], step} & {s + d for s in shared for d in (-1, 0, 1)}:
                        self.assertFalse(self.over(self.area(a), self.area(b)), (a, b))
            signs = [b.accidental for b in boxes if b.accidental]
            for i, sign in enumerate(signs):
                for other in signs[i + 1 :]:
                    self.assertTrue(abs(sign.x - other.x) >= 8 or abs(sign.y - other.y) >= 18, (sign, other))

    def test_seconds_stand_side_by_side_and_thirds_as_they_are(self) -> None:
        second, third = (
            page_view(self.part([chord]), width=WIDTH).rows[0].targets for chord in ({60, 62}, {60, 64})
        )
        self.assertGreaterEqual(second[1].x - second[0].x, 5)
        self.assertEqual(third[1].x, third[0].x)
        self.assertGreaterEqual(third[0].y - third[1].y - third[0].height, 2)
        legato = page_view(melody(), width=WIDTH).rows[0].targets
        self.assertEqual({n.height for n in legato}, {8})

    def test_labels_of_a_chord_stand_over_its_top_note_and_names_over_each_other(self) -> None:
        part = chord_sequence(read_sequence("C | Am"), with_bass=False)
        row = page_view(set_section(part, bar=2, name="B"), width=WIDTH).rows[0]
        chord = [n for n in row.targets if n.x == row.targets[0].x]
        self.assertEqual(self.texts(chord), [[], [], ["1", "3", "5"]])
        name = next(at for at in row.labels if at.label.kind is LabelKind.CHORDS and at.label.text == "Am")
        self.assertGreaterEqual(name.y - row.sections[0].y, 14)

    def test_letters_of_chords_touch_no_note_and_no_letter_and_stay_on_the_page(self) -> None:
        part = chord_sequence(read_sequence("C | Am | F | G7"), with_bass=False)
        high = replace(part, notes=tuple(replace(n, pitch=n.pitch + 19) for n in part.notes))
        kinds = frozenset({LabelKind.FINGERS, LabelKind.NAMES, LabelKind.KEYS})
        for each in (part, high, two_hands()):
            for row in page_view(each, width=WIDTH, labels=kinds).rows:
                lettered = [n for n in row.targets if n.labels]
                for note in lettered:
                    top = note.y - OVER_NOTE - LABELS_LINE * len(note.labels)
                    self.assertGreaterEqual(top, 0.0)
                    struck = [n for n in row.targets if n is not note and abs(n.x - note.x) < 2 * MIN_WIDTH]
                    self.assertFalse([n for n in struck if top < n.y < note.y], note)
        [row] = page_view(part, width=WIDTH, labels={LabelKind.NAMES}).rows
        names = self.texts(row.targets)
        self.assertEqual((names[2], sum(map(len, names))), (["C", "E", "G"], len(row.targets)))

    @staticmethod
    def texts(notes: Sequence[NoteBox]) -> list[list[str]]:
        return [[label.text for line in n.labels for label in line] for n in notes]

    def test_names_over_the_music_stand_clear_of_high_notes(self) -> None:
        low = page_view(set_section(melody(), bar=2, name="B"), width=WIDTH).rows[0]
        self.assertEqual(low.sections[0].y, low.staff_top - OVER_STAFF)
        high = replace(melody(), notes=tuple(replace(n, pitch=n.pitch + 19) for n in melody().notes))
        named = replace(high, chords=(ChordMark(tick=0, name="C"), ChordMark(tick=2400, name="Am")))
        for part in (high, set_finger(high, ALL, finger=3).part, named):
            row = page_view(set_section(part, bar=2, name="B"), width=WIDTH).rows[0]
            below = [n for n in row.targets if n.x >= row.bars[1].x]
            tops = [n.y - n.height / 2 - (12 if n.labels else 0) for n in below]
            names = [at.y for at in row.labels if at.label.kind is LabelKind.CHORDS]
            self.assertLess(row.sections[0].y, min([*tops, *(y - 13 for y in names)]))
            self.assertTrue(all(y < top for y in names for top in tops), (names, tops))
            self.assertGreaterEqual(row.sections[0].y, HIGHEST)

    def test_a_note_ends_before_the_accidental_that_follows(self) -> None:
        for pitches, fifths in (((64, 66, 67, 68), 0), ((69, 63, 69, 63), -1)):
            part = self.part([{p} for p in pitches], fifths=fifths)
            for row in page_view(part, width=WIDTH).rows:
                for before, after in zip(row.targets, row.targets[1:], strict=False):
                    # A flat rises over the line that it stands on.
                    if after.accidental and -10 < after.y - before.y < 18:
                        self.assertLessEqual(before.x + before.width, after.accidental.x)
