"""Trends from take to take: real change is told, chance is not."""

from random import Random
from unittest import TestCase

from hypothesis import given, settings
from hypothesis import strategies as st

from ear.extraction.extraction import extract_facts
from ear.notes import Take
from ear.players.robot import Habits, play
from ear.progress.course import CourseValue, course
from ear.progress.standings import TakeFigures, take_figures
from ear.progress.trend import MIN_TAKES, student_t, trend
from tests.ear.parts import melody


class TrendTest(TestCase):
    def test_few_takes_tell_no_course(self) -> None:
        self.assertIsNone(trend([1.0] * (MIN_TAKES - 1)))
        self.assertIsNotNone(trend([1.0] * MIN_TAKES))

    def test_a_line_by_hand(self) -> None:
        """From 50 to 20 in seven takes, scattering by nothing: all of it is change."""
        actual = trend([50, 45, 40, 35, 30, 25, 20])
        self.assertAlmostEqual(actual.change, -30.0)
        self.assertAlmostEqual(actual.first, 50.0)
        self.assertTrue(actual.is_change)
        self.assertEqual(actual.chance, 0.0)

    def test_what_each_take_can_be_off_counts_though_takes_lie_on_a_line(self) -> None:
        self.assertFalse(trend([30, 29, 28, 27], [6.0] * 4).is_change)
        steep = trend([70, 85, 96, 99, 100, 100, 100])
        self.assertEqual((steep.first >= 70, steep.last), (True, 100))
        self.assertEqual(steep.change, steep.last - steep.first)

    def test_chance_is_rarely_called_a_change_and_change_is_mostly_found(self) -> None:
        """About one row in twenty of pure chance, however few takes there are."""
        random = Random(5)
        for takes in (4, 6, 12):
            rows = [[random.gauss(40, 6) for _ in range(takes)] for _ in range(800)]
            self.assertLess(sum(trend(row, [4.0] * takes).is_change for row in rows) / len(rows), 0.08, takes)
        rising = [[40 - 4 * k + random.gauss(0, 6) for k in range(12)] for _ in range(300)]
        self.assertGreater(sum(trend(row, [4.0] * 12).is_change for row in rising) / 300, 0.9)

    def test_good_and_bad_days_are_seldom_called_a_change(self) -> None:
        """Two to four takes a day, and days that differ as much as twice what takes do."""
        random = Random(6)
        for takes in (12, 16, 20):
            rows = []
            for _ in range(500):
                row: list[float] = []
                while len(row) < takes:
                    day = random.gauss(0, 10)
                    row += [day + random.gauss(40, 5) for _ in range(random.randint(2, 4))]
                rows.append(row[:takes])
            self.assertLess(sum(trend(row).is_change for row in rows) / len(rows), 0.05, takes)

    def test_students_t_against_the_tables(self) -> None:
        for freedom, t in ((3, 3.182), (5, 2.571), (10, 2.228), (30, 2.042)):
            self.assertAlmostEqual(student_t(freedom), t, delta=0.03)

    @settings(max_examples=50)
    @given(st.lists(st.floats(0, 200), min_size=4, max_size=20), st.floats(-50, 50), st.floats(0.1, 5))
    def test_trends_move_and_scale_with_their_values(
        self, values: list[float], shift: float, rate: float
    ) -> None:
        a, b = trend(values), trend([v * rate + shift for v in values])
        self.assertAlmostEqual(b.change, a.change * rate, delta=1e-6 * (1 + abs(a.change * rate)))
        self.assertAlmostEqual(b.chance, a.chance * rate, delta=1e-6 * (1 + a.chance * rate))
        back = trend(list(reversed(values)))
        self.assertAlmostEqual(back.change, -a.change, delta=1e-6 * (1 + abs(a.change)))


class FiguresTest(TestCase):
    def test_figures_of_a_take_go_to_json_and_back(self) -> None:
        part = melody(bpm=96)
        facts = extract_facts(part, play(part, Habits(spread_ms=18, lead_ms=30), seed=1))
        actual = take_figures(facts, asked_bpm=96, quarters=32)
        self.assertEqual(TakeFigures.from_json(actual.to_json()), actual)
        self.assertEqual(actual.right_percent, 100.0)
        self.assertAlmostEqual(actual.bias_ms, 30, delta=12)
        self.assertAlmostEqual(actual.seconds, 20.0, delta=0.3)
        self.assertAlmostEqual(actual.tempo_percent, 100.0, delta=1)
        self.assertGreater(actual.spread_error, 0)

    def test_an_empty_take_has_no_figures_but_what_is_right(self) -> None:
        actual = take_figures(extract_facts(melody(), Take(notes=())), asked_bpm=96, quarters=32)
        self.assertEqual(
            (actual.right_percent, actual.spread_ms, actual.bias_ms, actual.dynamics), (0.0, None, None, None)
        )


class CourseTest(TestCase):
    def test_better_stands_higher_and_lines_only_where_there_is_change(self) -> None:
        values = [
            CourseValue(group=g, name="", value=v)
            for g, v in (("a", 60), ("a", 50), ("a", 40), ("a", 30), ("b", 20), ("b", 21))
        ]
        drawn = course(values, {"a": trend([60, 50, 40, 30]), "b": trend([20, 21])}, lower_is_up=True)
        self.assertGreater(drawn.points[0].y, drawn.points[3].y)
        self.assertEqual([g.line is not None for g in drawn.groups], [True, False])
        self.assertEqual([p.x for p in drawn.points], sorted(p.x for p in drawn.points))
        self.assertEqual([group.label for group in drawn.groups], ["a", "b"])
        # Names that do not fit under their takes stand beside the picture, each with a letter.
        long = [CourseValue(group=f"A rather long name {n}", name="", value=n) for n in range(30)]
        crowded = course(long, {})
        self.assertEqual([group.label for group in crowded.groups][24:28], ["Y", "Z", "AA", "AB"])
        self.assertEqual(len(crowded.key), 30)
        self.assertEqual(drawn.key, ())
        self.assertEqual(course([], {}).points, ())
