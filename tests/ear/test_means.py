"""Means of marks can be added up by hand."""

from fractions import Fraction
from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.judging.means import Weighed, mean_of, percent_of

MARKS = st.lists(
    st.tuples(st.integers(0, 1000).map(lambda n: n / 10), st.integers(0, 10_000).map(lambda n: n / 100)),
    max_size=60,
)


class MeansTest(TestCase):
    @given(MARKS)
    def test_the_mean_is_the_printed_parts_over_the_printed_weights(self, marks) -> None:
        mean = mean_of([Weighed(percent=p, weight=w) for p, w in marks])
        parts = sum(
            (Fraction(f"{one.percent:.1f}") * Fraction(f"{one.weight:.2f}") for one in mean.marks),
            Fraction(0),
        )
        weights = sum((Fraction(f"{one.weight:.2f}") for one in mean.marks), Fraction(0))
        self.assertEqual(Fraction(f"{mean.sum:.3f}"), parts)
        self.assertEqual(Fraction(f"{mean.weight:.2f}"), weights)
        if not weights:
            self.assertIsNone(mean.value)
        else:
            self.assertLessEqual(abs(Fraction(f"{mean.value:.1f}") - parts / weights), Fraction(51, 1000))

    @given(MARKS)
    def test_it_lies_between_the_least_and_the_most(self, marks) -> None:
        mean = mean_of([Weighed(percent=p, weight=w) for p, w in marks])
        if mean.value is not None:
            counted = [one.percent for one in mean.marks]
            self.assertTrue(min(counted) - 0.05 <= mean.value <= max(counted) + 0.05)

    def test_a_mark_without_weight_is_left_out(self) -> None:
        mean = mean_of([Weighed(percent=80.0, weight=2.0), Weighed(percent=10.0, weight=0.0)])
        self.assertEqual(([one.percent for one in mean.marks], mean.value), ([80.0], 80.0))

    def test_per_cent_is_rounded_half_up(self) -> None:
        self.assertEqual(
            [percent_of(p, of) for p, of in ((17.5, 20), (1, 3), (2, 3), (0, 7), (1, 2000))],
            [87.5, 33.3, 66.7, 0.0, 0.1],
        )
