"""The plan for five minutes: most points for the time first, each bar once, as much as fits."""

from unittest import TestCase

from hypothesis import given
from hypothesis import strategies as st

from ear.practice.plan import LOOPS, Planned, PracticePassage, plan


def passage(
    first: int, last: int, lost: float, loop_s: float = 5.0, source: str = "bell"
) -> PracticePassage[str]:
    return PracticePassage(source=source, first_bar=first, last_bar=last, lost_points=lost, loop_s=loop_s)


def passages_of(planned: tuple[Planned[str], ...]) -> list[PracticePassage[str]]:
    return [each.passage for each in planned]


class PlanTest(TestCase):
    def test_what_wins_most_in_a_minute_comes_first(self) -> None:
        short, long = passage(1, 1, 4, loop_s=3), passage(5, 8, 8, loop_s=20)
        self.assertEqual(passages_of(plan([long, short])), [short, long])
        # The time that is left goes where most was lost.
        self.assertEqual([each.seconds for each in plan([long, short])], [32 + 168 / 3, 100 + 2 * 168 / 3])
        self.assertEqual(short.practice_s, LOOPS * (3 + 5))
        self.assertAlmostEqual(short.points_per_minute, 60 * 4 / 32)

    def test_bars_are_practised_once_and_other_music_apart(self) -> None:
        worst, same_bars, other = passage(2, 3, 9), passage(3, 4, 5), passage(2, 3, 1, source="loft")
        self.assertEqual(passages_of(plan([same_bars, worst, other])), [worst, other])

    def test_what_does_not_fit_is_passed_over_but_something_is_always_there(self) -> None:
        huge, small = passage(1, 30, 60, loop_s=120), passage(40, 40, 0.5, loop_s=5)
        self.assertEqual(passages_of(plan([huge, small])), [huge])
        self.assertEqual(plan([passage(1, 1, 0)]), ())
        self.assertEqual(plan([]), ())

    @given(
        st.lists(
            st.builds(
                passage,
                st.integers(1, 20), st.integers(20, 24), st.floats(0, 30), st.floats(1, 60), st.sampled_from("ab"),
            )
        ),
        st.floats(1, 10),
    )  # fmt: skip
    def test_it_fits_and_is_in_order(self, passages: list[PracticePassage[str]], minutes: float) -> None:
        chosen = plan(passages, minutes=minutes)
        rates = [each.points_per_minute for each in passages_of(chosen)]
        self.assertEqual(rates, sorted(rates, reverse=True))
        if len(chosen) > 1:
            self.assertLessEqual(
                sum(each.seconds for each in chosen), 60 * minutes + chosen[0].passage.practice_s + 1e-6
            )
        self.assertEqual(bool(chosen), any(each.lost_points > 0 for each in passages))
