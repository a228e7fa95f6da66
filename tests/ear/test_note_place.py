"""Which note or bar something is about, as a value and as text."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.errors import ValueOutOfRange
from ear.note_place import NotePlace, PlaceKind


class NotePlaceTest(TestCase):
    @given(st.sampled_from(list(PlaceKind)), st.integers(0, 999_999))
    def test_a_place_is_read_as_it_is_written(self, kind: PlaceKind, number: int) -> None:
        place = NotePlace(kind, number)
        self.assertEqual(NotePlace.read(str(place)), place)

    def test_anything_else_is_refused(self) -> None:
        for text in ("", "t", "x5", "t-1", "t1234567", "t5 ", "t٣", "b2;"):
            with self.subTest(text), self.assertRaises(ValueOutOfRange):
                NotePlace.read(text)

    def test_a_row_is_about_its_written_note_or_else_about_what_was_played(self) -> None:
        self.assertEqual(str(NotePlace.of_row(4, 7)), "t4")
        self.assertEqual(str(NotePlace.of_row(None, 7)), "k7")
