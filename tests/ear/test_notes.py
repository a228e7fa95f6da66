from unittest import TestCase

import numpy as np

from ear.errors import ValueOutOfRange
from ear.notes import (
    STANDARD_KIT,
    Kind,
    Meter,
    MeterChange,
    MeterMap,
    Note,
    Part,
    TempoChange,
    TempoMap,
    pitch_name,
    spell,
)  # fmt: skip
from tests.ear.parts import melody


class MeterTest(TestCase):
    def test_bars_and_beats_of_a_part_that_changes_meter(self) -> None:
        meters = MeterMap(
            [
                MeterChange(bar=1, meter=Meter(numerator=3, denominator=4)),
                MeterChange(bar=3, meter=Meter(numerator=6, denominator=8)),
            ]
        )
        table = [
            (0, 1, 1, 0),
            (1439, 1, 3, 479),
            (1440, 2, 1, 0),
            (2880, 3, 1, 0),
            (3600, 3, 2, 0),
            (4320, 4, 1, 0),
        ]
        for tick, bar, beat, rest in table:
            place = meters.position(tick)
            self.assertEqual((place.bar, place.beat, place.tick), (bar, beat, rest), tick)
        self.assertEqual(meters.bar(4).start_tick, 4320)
        self.assertEqual(meters.bar_at(-10).number, 0)

    def test_compound_meters_are_felt_in_dotted_beats(self) -> None:
        for over, under, beats, beat_ticks in [
            (6, 8, 2, 720),
            (9, 8, 3, 720),
            (3, 8, 3, 240),
            (5, 4, 5, 480),
            (2, 2, 2, 960),
        ]:
            meter = Meter(numerator=over, denominator=under)
            self.assertEqual((meter.beats, meter.beat_ticks), (beats, beat_ticks))

    def test_tempo_changes_there_and_back(self) -> None:
        tempos = TempoMap([TempoChange(tick=0, bpm=60), TempoChange(tick=960, bpm=120)])
        quarters = np.array([-1.0, 0.0, 1.0, 2.0, 4.0])
        np.testing.assert_allclose(tempos.seconds(quarters), [-1, 0, 1, 2, 3])
        np.testing.assert_allclose(tempos.quarters(tempos.seconds(quarters)), quarters)

    def test_values_are_checked_when_made(self) -> None:
        for make in (
            lambda: Meter(numerator=4, denominator=5),
            lambda: TempoMap([TempoChange(tick=1, bpm=90)]),
            lambda: TempoMap.of(1000),
            lambda: Note(onset_tick=0, length_tick=1, pitch=128, velocity=1),
            lambda: Note(onset_tick=0, length_tick=1, pitch=60, velocity=0),
            lambda: Part(
                kind=melody().kind,
                notes=melody().notes[::-1],
                meters=MeterMap.of(4, 4),
                tempos=TempoMap.of(90),
            ),
        ):
            with self.assertRaises(ValueOutOfRange):
                make()


class PitchTest(TestCase):
    def test_names_follow_key_and_convention(self) -> None:
        self.assertEqual(pitch_name(60), "C4")
        self.assertEqual(pitch_name(60, middle_c_octave=3), "C3")
        self.assertEqual(pitch_name(61, fifths=2), "C♯4")
        self.assertEqual(pitch_name(61, fifths=-2), "D♭4")
        self.assertEqual(spell(70, fifths=-1).letter, "B")

    def test_kit_folds_equivalents(self) -> None:
        self.assertEqual(STANDARD_KIT.fold(35), STANDARD_KIT.fold(36))
        self.assertNotEqual(STANDARD_KIT.fold(42), STANDARD_KIT.fold(46))
        self.assertEqual(STANDARD_KIT.fold(90), 90)


class PercussionNamesTest(TestCase):
    def test_other_percussion_is_called_as_general_midi_has_it(self) -> None:
        part = Part.of(
            (Note(onset_tick=480 * k, length_tick=60, pitch=p, velocity=80) for k, p in enumerate((38, 54, 76, 99))),
            kind=Kind.DRUMS, meters=MeterMap.of(4, 4), tempos=TempoMap.of(90),
        )  # fmt: skip
        names = [part.lane_name(pitch) for pitch in (38, 54, 76, 99)]
        self.assertEqual(names, ["snare", "tambourine", "high wood block", "pad 99"])
        # A ladder and a selection keep the lane by its number.
        self.assertEqual(STANDARD_KIT.lane(54).name, "pad 54")
