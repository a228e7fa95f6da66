"""Key and meter that change inside a part: set, drawn, moved, kept by chains and files."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.drawing.page import page_view
from ear.editing.key_and_meter import set_key, set_meter
from ear.editing.key_chain import KeyOrder, key_chain
from ear.editing.sections import set_section
from ear.editing.transpose import to_key
from ear.errors import ValueOutOfRange
from ear.formats.musicxml import read_musicxml, write_musicxml
from ear.formats.smf_parts import read_part
from ear.formats.smf_writing import write_part
from ear.notes import Kind, Meter, Part
from tests.ear.parts import beat, melody

THREE = Meter(numerator=3, denominator=4)


def keys(part: Part) -> list[int]:
    return [part.fifths_at(bar.start_tick) for bar in part.bars]


class KeyTest(TestCase):
    def test_a_key_holds_to_the_next_and_names_itself(self) -> None:
        part = set_key(melody(bars=8), bar=5, fifths=-3)
        self.assertEqual(keys(part), [0, 0, 0, 0, -3, -3, -3, -3])
        self.assertEqual([(s.bar, s.name) for s in part.sections], [(5, "E♭")])
        part = set_key(part, bar=7, fifths=2)
        self.assertEqual(keys(set_key(part, bar=1, fifths=1)), [1, 1, 1, 1, -3, -3, 2, 2])
        self.assertEqual(keys(set_key(part, bar=5, fifths=0)), [0] * 6 + [2, 2])
        self.assertEqual([s.name for s in set_key(part, bar=5, fifths=0).sections], ["D"])

    def test_sections_keep_their_names_and_what_follows_goes_along(self) -> None:
        part = set_section(set_section(melody(bars=8), bar=3, name="Walk"), bar=6, name="Run")
        moved = set_key(part, bar=3, fifths=4)
        self.assertEqual((keys(moved), [s.name for s in moved.sections]), ([0, 0] + [4] * 6, ["Walk", "Run"]))

    @given(
        st.lists(st.tuples(st.integers(1, 8), st.integers(-7, 7)), max_size=6),
        st.integers(1, 8),
        st.integers(-7, 7),
    )
    def test_what_is_set_holds_from_there_and_nothing_before_changes(
        self, sets: list[tuple[int, int]], bar: int, fifths: int
    ) -> None:
        part = melody(bars=8)
        for at, key in sets:
            part = set_key(part, bar=at, fifths=key)
        after = set_key(part, bar=bar, fifths=fifths)
        self.assertEqual((keys(after)[bar - 1], keys(after)[: bar - 1]), (fifths, keys(part)[: bar - 1]))
        self.assertEqual(after.notes, part.notes)

    def test_keys_inside_go_along_into_another_and_through_a_chain(self) -> None:
        part = set_key(melody(bars=8), bar=5, fifths=1)
        self.assertEqual(keys(to_key(part, fifths=3).part), [3] * 4 + [4] * 4)
        self.assertEqual([s.name for s in to_key(part, fifths=3).part.sections], ["E"])
        chain = key_chain(part, order=KeyOrder.FIFTHS, keys=3, gap_bars=1)
        first = [1 + 9 * k for k in range(3)]
        self.assertEqual([(s.bar, s.fifths) for s in chain.sections],
                         [(b + more, k + up) for k, b in enumerate(first) for more, up in ((0, 0), (4, 1))])  # fmt: skip

    def test_files_and_the_page_keep_it(self) -> None:
        part = set_key(melody(bars=8), bar=5, fifths=-3)
        for back in (
            read_musicxml(write_musicxml(part, title="T")).parts[0].part,
            read_part(write_part(part), kind=Kind.KEYBOARD),
        ):
            self.assertEqual(keys(back), keys(part))
        rows = page_view(part, width=860).rows
        row = next(r for r in rows if r.bars[0].number == 5)
        self.assertEqual([sign.glyph for sign in row.staves[0].key], ["flat"] * 3)

    def test_what_cannot_be_set_is_refused(self) -> None:
        for part, bar, fifths in ((melody(), 99, 0), (melody(), 1, 8), (beat(), 1, 0)):
            self.assertRaises(ValueOutOfRange, set_key, part, bar=bar, fifths=fifths)


class MeterTest(TestCase):
    def test_a_meter_holds_to_the_end_and_no_note_moves(self) -> None:
        part = melody(bars=8)
        made = set_meter(part, bar=5, meter=THREE).part
        self.assertEqual([bar.meter.numerator for bar in made.bars], [4] * 4 + [3] * 6)
        self.assertEqual(
            [(n.onset_tick, n.pitch) for n in made.notes], [(n.onset_tick, n.pitch) for n in part.notes]
        )
        signs = [bar.meter for row in page_view(made, width=860).rows for bar in row.bars if bar.meter]
        self.assertEqual(signs, [(4, 4), (3, 4)])
        self.assertRaises(ValueOutOfRange, set_meter, part, bar=9, meter=THREE)

    @given(st.integers(1, 8), st.sampled_from([(3, 4), (2, 4), (6, 8), (5, 4), (12, 8)]), st.integers(1, 8))
    def test_all_that_was_there_has_a_bar(self, bar: int, meter: tuple[int, int], named: int) -> None:
        part = set_section(melody(bars=8), bar=named, name="A")
        made = set_meter(part, bar=bar, meter=Meter(numerator=meter[0], denominator=meter[1])).part
        self.assertGreaterEqual(made.bars[-1].end_tick, part.end_tick)
        self.assertLessEqual(made.sections[0].bar, len(made.bars))
        if named <= bar:
            self.assertEqual(made.sections[0].bar, named)
