"""How each note went: verdicts, places, what is looked at, and the profiles' small pictures."""

from dataclasses import replace
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.assess import assess
from ear.criteria.levels import Window
from ear.criteria.notes.scoring import TOO_MANY
from ear.criteria.score import IN_TIME, NOT_COUNTED, Verdict
from ear.criteria.table import FAULTS, VERDICT_NAMES
from ear.criteria.timing import TIMING
from ear.drawing.boxes import Overlay, Played, overlay_of
from ear.drawing.page import page_view
from ear.drawing.profiles import PlaceFigures, profile
from ear.drawing.verdicts import Selection, faults, place_of_row, rows_at, selected_rows
from ear.judging.rubric import DEFAULT_RUBRICS
from ear.notation.engraving import notation_svg, with_classes
from ear.notes import STANDARD_KIT, Kind, Part, Take, TakeNote
from ear.players.robot import Habits, play
from tests.ear.exact import exact
from tests.ear.parts import beat, melody, two_hands

WINDOW = Window(full_ms=40, none_ms=120)


def laid_over(part: Part, take: Take) -> Overlay:
    actual = assess(part, take)
    return overlay_of(take, actual.facts, actual.judgement)


class VerdictTest(TestCase):
    def test_a_row_has_one_verdict_by_what_it_lost_credit_for(self) -> None:
        """Building, nothing forgiven: in time to 40 ms. A note of each sort, in this order."""
        part = melody(bars=4)
        notes = list(exact(part).notes)
        notes[1] = replace(notes[1], onset_s=notes[1].onset_s + 0.04)
        notes[2] = replace(notes[2], onset_s=notes[2].onset_s + 0.05)
        notes[3] = replace(notes[3], onset_s=notes[3].onset_s - 0.05)
        notes[4] = replace(notes[4], pitch=notes[4].pitch + 1)
        notes[6] = replace(notes[6], length_s=0.1)
        notes[7] = replace(notes[7], velocity=20)
        stray = TakeNote(onset_s=notes[9].onset_s + 0.3, length_s=0.2, pitch=90, velocity=80)
        take = Take.of([*notes[:5], *notes[6:], stray])
        rubric = replace(DEFAULT_RUBRICS[Kind.KEYBOARD], forgiven_bias_ms=0.0)
        judged = assess(part, take, rubric=rubric).judgement
        self.assertEqual(
            list(judged.verdicts[:8]),
            ["in_time", "in_time", "late", "early", "wrong", "missed", "short", "soft"],
        )
        self.assertEqual(judged.verdicts[-1], TOO_MANY)
        without_notes = replace(rubric, weights=((TIMING, 1),), has_ceilings=False)
        only_time = assess(part, take, rubric=without_notes).judgement
        self.assertEqual(only_time.verdicts[4], NOT_COUNTED)
        self.assertEqual(only_time.verdicts[6:8], (IN_TIME, IN_TIME))

    @settings(max_examples=15)
    @given(
        seed=st.integers(0, 10**6),
        voice=st.sampled_from(["right", "left"]),
        which=st.sampled_from(list(VERDICT_NAMES)),
    )
    def test_selections_part_the_rows(self, seed: int, voice: str, which: Verdict) -> None:
        """Every row is of one hand and has one verdict: together they are all, and none twice."""
        part = two_hands()
        overlay = laid_over(
            part, play(part, Habits(spread_ms=40, wrong_keys=0.1, grazes=0.1, misses=0.1), seed=seed)
        )
        every = selected_rows(part, overlay, Selection(), kit=STANDARD_KIT)
        self.assertEqual(len(every), len(overlay.rows))
        by_hand = [
            at for hand in ("right", "left")
            for at in selected_rows(part, overlay, Selection(voice=hand), kit=STANDARD_KIT)
        ]  # fmt: skip
        by_verdict = [
            at
            for v in VERDICT_NAMES
            for at in selected_rows(part, overlay, Selection(verdict=v), kit=STANDARD_KIT)
        ]
        for parted in (by_hand, by_verdict):
            self.assertEqual(
                sorted(place_of_row(at.row) for at in parted), sorted(place_of_row(at.row) for at in every)
            )
        both = selected_rows(part, overlay, Selection(voice=voice, verdict=which), kit=STANDARD_KIT)
        page = page_view(part, width=860, overlay=overlay, selection=Selection(voice=voice, verdict=which))
        clear = {n.id for row in page.rows for n in (*row.targets, *row.takes) if not n.is_faded}
        shown = {name for at in both for name in (f"t{at.row.target}", f"k{at.row.take}")} - {
            "tNone",
            "kNone",
        }
        self.assertEqual(clear, shown)

    def test_faults_stand_in_order_of_place_and_leave_out_what_went_well(self) -> None:
        part = beat()
        overlay = laid_over(part, play(part, Habits(misses=0.1, doubles=0.1, spread_ms=30), seed=3))
        actual = faults(selected_rows(part, overlay, Selection(), kit=STANDARD_KIT))
        ticks = [at.tick for at in actual]
        self.assertEqual(ticks, sorted(ticks))
        self.assertTrue(all(at.row.verdict in FAULTS for at in actual))
        self.assertGreater(len(actual), 5)

    def test_a_note_too_many_stands_by_the_linked_note_nearest_in_time(self) -> None:
        part = melody(bpm=60.0)
        take = Take.of([TakeNote(onset_s=1.5, length_s=0.3, pitch=60, velocity=80),
                        TakeNote(onset_s=2.5, length_s=0.3, pitch=62, velocity=80)])  # fmt: skip
        rows = [Played(number=0, target=1, take=0, outcome="matched", deviation_ms=500.0),
                Played(number=1, target=None, take=1, outcome="extra")]  # fmt: skip
        overlay = Overlay(take=take, rows=rows, window=WINDOW)
        self.assertEqual([at.tick for at in rows_at(part, overlay)], [720.0, 1200.0])

    def test_heads_of_drawn_notation_take_a_class_by_their_note(self) -> None:
        svg = with_classes(notation_svg(melody(bars=2), width=800), {0: "went-late", 7: "went-wrong"})
        self.assertEqual(svg.count('class="note went-late"'), 1)
        self.assertIn('id="n7-0" class="note went-wrong"', svg)
        self.assertIn('id="n1-0" class="note"', svg)


class ProfileTest(TestCase):
    def test_early_stands_above_the_line(self) -> None:
        places = [
            PlaceFigures(name=name, count=4, median_ms=ms, spread_ms=10, state=state)
            for name, ms, state in (
                ("1", -90.0, "early"), ("2", -10.0, "in_time"), ("3", 45.0, "late"), ("4", 490.0, "late"),
            )
        ]  # fmt: skip
        drawn = profile(places, full_ms=40)
        self.assertEqual([p.state for p in drawn.points], [p.state for p in places])
        ys = [p.y for p in drawn.points]
        self.assertEqual(ys, sorted(ys))
        self.assertLess(ys[1], drawn.line_y)
        self.assertLessEqual(drawn.points[3].bottom, drawn.height)

    def test_many_places_show_some_of_their_names_and_none_are_an_empty_picture(self) -> None:
        places = [PlaceFigures(name=str(k), count=1, median_ms=0, spread_ms=0) for k in range(1, 65)]
        shown = [p.figures.name for p in profile(places, full_ms=40).points if p.shows_name]
        self.assertGreater(len(shown), 5)
        self.assertLess(len(shown), 33)
        self.assertEqual(profile([], full_ms=40).points, ())
