"""A pick-up: bar 0 of a part, on paper, in files, as text, in the ladder, in what a take is measured by."""

from dataclasses import replace
from unittest import TestCase
from xml.etree.ElementTree import fromstring

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.editing import bars
from ear.editing.key_and_meter import set_meter
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.pickup import turn_pickup
from ear.editing.sections import set_section
from ear.errors import ValueOutOfRange
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.plain_text import read_lines
from ear.formats.plain_writing import plain_lines
from ear.formats.text_file import read_text, write_text
from ear.notation.mei import mei_of
from ear.notation.pieces import bar_pieces
from ear.notes import Meter, Part, folded
from ear.players.robot import Habits, play
from ear.practice.proposals import propose_ladder
from ear.reader import ENGLISH
from ear.words.phrases import describe_bars
from ear.words.places import describe_tick
from tests.ear.parts import melody

TUNE = """keyboard
metre 3/4
key 1 sharp
0 R: D4/8 D
1 R: G4/4 A B L: G3/2.
2 R: C5/4. B4/8 A4/4 L: D3/2.
3 R: B4/2 D4/4 L: G3/2.
4 R: G4/4 A B L: G3/2.
5 R: C5/4. B4/8 A4/4 L: D3/2.
6 R: G4/2. L: G3/2."""
PART = read_text(TUNE.encode())
COUNTED = PART.numbered_from(1)


def music(part: Part) -> list[tuple[int, int, int]]:
    return [(n.onset_tick, n.length_tick, n.pitch) for n in part.notes]


class PickupTest(TestCase):
    def test_bars_are_counted_from_the_first_whole_one(self) -> None:
        self.assertEqual([bar.number for bar in PART.bars], [0, 1, 2, 3, 4, 5, 6])
        self.assertEqual(PART.bar_of_note.tolist()[:4], [0, 0, 1, 1])
        self.assertEqual(music(PART), music(COUNTED))
        self.assertEqual(COUNTED.numbered_from(0), PART)
        self.assertEqual(PART.meters.position(960).bar, 0)

    def test_it_is_written_without_rests_before_it_and_comes_back_from_every_form(self) -> None:
        document = write_musicxml(PART, title="T")
        first = fromstring(document).find("part/measure")
        assert first is not None
        self.assertEqual((first.get("number"), first.get("implicit")), ("0", "yes"))
        self.assertEqual([note.findtext("duration") for note in first.findall("note")], ["240", "240", "480"])
        read = read_musicxml(document)
        self.assertEqual((music(read.parts[0].part), read.parts[0].part.first_bar), (music(PART), 0))
        self.assertEqual(read.not_imported, ())
        self.assertEqual(part_from_json(part_to_json(PART)), PART)
        text = plain_lines(PART)
        self.assertTrue(text.startswith("0 R: 3=D4/8 D4/8"))
        self.assertEqual(read_lines(PART, text).part, PART)
        measures = fromstring(mei_of(PART)).iter("{http://www.music-encoding.org/ns/mei}measure")
        self.assertEqual([m.get("metcon") for m in measures][:2], ["false", None])

    def test_a_line_for_bar_0_puts_one_before_the_others(self) -> None:
        part = melody(bars=2)
        made = read_lines(part, "0 [G] G4/4").part
        self.assertEqual([(c.tick, c.name) for c in made.chords], [(1440, "G")])
        self.assertEqual((made.first_bar, made.last_bar, made.notes[0].onset_tick), (0, 2, 1440))
        self.assertEqual(music(bars.delete_bars(made, first=0, last=0).part), music(part))

    def test_a_text_file_has_it_with_changes_of_metre_and_tempo_where_they_were(self) -> None:
        part = set_meter(PART, bar=4, meter=Meter(numerator=2, denominator=4)).part
        part = set_section(part, bar=4, name="B", bpm=60.0)
        again = read_text(write_text(part))
        self.assertEqual((again.meters, again.tempos), (part.meters, part.tempos))
        self.assertEqual(music(again), music(part))

    def test_takes_are_measured_as_of_the_same_music_and_bars_are_named_by_their_numbers(self) -> None:
        for habits in (Habits(spread_ms=12), Habits(misses=0.2), Habits(drift_ms_per_bar=9.0)):
            take = play(COUNTED, habits, seed=3)
            plain, counted = assess(PART, take), assess(COUNTED, take)
            self.assertEqual(plain.judgement.total, counted.judgement.total)
            self.assertEqual(
                [each.bars and (each.bars[0] + 1, each.bars[1] + 1) for each in plain.facts.findings],
                [each.bars for each in counted.facts.findings],
            )

    def test_the_ladder_begins_with_it_and_phrases_with_whole_bars(self) -> None:
        spans = {(r.first_bar, r.last_bar) for r in propose_ladder(PART).rungs}
        self.assertEqual(spans, {(0, 4), (5, 6), (0, 6)})
        rung = next(r for r in propose_ladder(PART).rungs if r.first_bar == 5)
        self.assertEqual(rung.part(PART).first_bar, 1)
        self.assertEqual([piece.start for piece in bar_pieces(PART, most=4)][:2], [0, 1])

    def test_its_rests_are_part_of_the_count_in(self) -> None:
        self.assertEqual([PART.bars_before(n) for n in (0, 1, 2)], [0, 0, 1])
        self.assertEqual(COUNTED.bars_before(1), 1)
        long = read_lines(PART, "0 R: D4/4 D").part
        self.assertEqual(long.bars_before(1), 1, "a third of a bar is not enough")

    def test_it_is_made_and_unmade(self) -> None:
        self.assertEqual(turn_pickup(COUNTED).part, PART)
        self.assertEqual(turn_pickup(PART).part, COUNTED)
        for wrong in (
            melody(),
            PART.with_notes(()).numbered_from(1),
            bars.only_bars(PART, first=0, last=0).part.numbered_from(1),
        ):
            self.assertRaises(ValueOutOfRange, turn_pickup, wrong)

    @given(first=st.integers(0, 6), last=st.integers(0, 6))
    @settings(max_examples=40)
    def test_tools_do_the_same_by_its_numbers(self, first: int, last: int) -> None:
        if first > last:
            return
        edits = (
            lambda part, by: (
                bars.delete_bars(part, first=first + by, last=last + by) if last - first < 6 else None
            ),
            lambda part, by: bars.only_bars(part, first=first + by, last=last + by),
            lambda part, by: bars.insert_bars(part, before=first + by, count=2),
            lambda part, by: bars.copy_bars(part, first=first + by, last=last + by, before=1 + by),
            lambda part, by: bars.repeat_bars(part, first=first + by, last=last + by),
            lambda part, by: set_meter(part, bar=first + by, meter=Meter(numerator=2, denominator=4)),
        )
        for edit in edits:
            ours, counted = edit(PART, 0), edit(COUNTED, 1)
            if ours is not None and counted is not None:
                self.assertEqual(music(ours.part), music(counted.part))
                self.assertIn(ours.part, (counted.part, counted.part.numbered_from(0)))
        self.assertRaises(ValueOutOfRange, bars.delete_bars, PART, first=last, last=7)

    def test_what_stands_at_bars_goes_with_it(self) -> None:
        named = set_section(PART, bar=0, name="A")
        self.assertEqual([s.bar for s in set_section(named, bar=4, name="B").sections], [0, 4])
        chain = key_chain(PART, order=KeyOrder.FIFTHS, keys=2, gap_bars=0)
        self.assertEqual((chain.first_bar, [s.bar for s in chain.sections]), (0, [0, 7]))
        repeated = bars.repeat_bars(PART, first=1, last=3, ending_bars=1).part
        self.assertEqual(len(repeated.bars), 10)
        written = folded(replace(repeated, notes=tuple(n for n in repeated.notes if n.hand)))
        assert written is not None
        self.assertEqual([bar.number for bar in written.bars], [0, 1, 2, 3, 4, 5, 6, 7])
        again = read_musicxml(write_musicxml(repeated, title="T")).parts[0].part
        self.assertEqual((again.form, again.first_bar), (repeated.form, 0))

    def test_it_is_called_by_its_name(self) -> None:
        self.assertEqual(describe_tick(PART, 960, ENGLISH), "the pick-up, beat 3")
        self.assertEqual(describe_tick(PART, 1440, ENGLISH), "bar 1, beat 1")
        spans = {span: describe_bars(span, ENGLISH) for span in ((0, 0), (0, 4), (1, 1), (1, 4))}
        self.assertEqual(
            spans, {(0, 0): "pick-up", (0, 4): "pick-up to bar 4", (1, 1): "bar 1", (1, 4): "bars 1 to 4"}
        )
