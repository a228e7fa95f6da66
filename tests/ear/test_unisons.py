"""Two notes on one key at once: both are written, one is struck."""

from dataclasses import replace
from unittest import TestCase

from ear.assess import assess
from ear.formats.account import Lost
from ear.formats.importing import open_file
from ear.formats.musicxml import read_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.plain_text import read_lines
from ear.formats.plain_writing import plain_lines
from ear.formats.smf_writing import write_part
from ear.notation.mei import mei_of
from ear.notes import Hand, Kind, Unison
from ear.players.robot import Habits, play
from tests.ear.parts import melody
from tests.ear.test_musicxml import back, document, note


class UnisonsTest(TestCase):
    def test_a_key_struck_twice_at_once_keeps_its_second_note_where_that_is_another(self) -> None:
        voices = "<voice>1</voice>", "<voice>2</voice>"
        bar = f"{note('C', 8, voices[0])}<backup><duration>8</duration></backup>{note('C', 2, voices[1])}{note('E', 6, voices[1])}"
        read = read_musicxml(document(f"<measure>{bar}</measure>"))
        part = read.parts[0].part
        self.assertEqual([(n.length_tick, n.pitch) for n in part.notes], [(1920, 60), (1440, 64)])
        assert part.notes[0].unison is not None
        self.assertEqual(part.notes[0].unison.length_tick, 480)
        self.assertEqual([(row.feature, row.bar) for row in read.not_imported], [(Lost.UNISON, 1)])
        self.assertEqual(back(part).notes[0].unison, part.notes[0].unison)
        self.assertEqual(part_from_json(part_to_json(part)), part)
        self.assertEqual(
            assess(part, play(part, Habits(spread_ms=4), seed=1)).judgement.scores.criteria[0].score, 100.0
        )
        # Nothing tells two alike apart: one is lost, and its bar is named.
        alike = f"{note('C', 4, voices[0])}<backup><duration>4</duration></backup>{note('C', 4, voices[0])}"
        lost = read_musicxml(document(f"<measure>{alike}</measure>")).not_imported
        self.assertEqual([(row.feature, row.bar) for row in lost], [(Lost.DOUBLED, 1)])

    def test_both_hands_on_one_key_are_two_notes_on_paper_and_one_stroke(self) -> None:
        right = melody(bars=1)
        shared = replace(right.notes[0], hand=Hand.RIGHT, unison=Unison(length_tick=1920, hand=Hand.LEFT))
        held = replace(
            shared, length_tick=1920, unison=Unison(length_tick=480, hand=Hand.RIGHT), hand=Hand.LEFT
        )
        part = right.with_notes([held, *(replace(n, hand=Hand.RIGHT) for n in right.notes[1:])])
        again = back(part)
        self.assertEqual(
            [(n.length_tick, n.hand, n.unison and n.unison.length_tick) for n in again.notes[:1]],
            [(1920, Hand.LEFT, 480)],
        )
        opened = open_file(write_part(part))
        taken = opened.take(opened.first_choice(Kind.KEYBOARD), kind=Kind.KEYBOARD)
        self.assertEqual(
            (taken.part.notes[0].unison, [row.feature for row in taken.not_imported]),
            (held.unison, [Lost.UNISON]),
        )
        heads = mei_of(part).count("<note ")
        self.assertEqual(heads, len(part.notes) + 1)
        words = plain_lines(part)
        self.assertEqual(read_lines(part, words).part, part)
