"""Robot takes whose troubles are known, to see what a rubric would give them."""

from dataclasses import dataclass
from functools import cache

from ear.extraction.extraction import extract_facts
from ear.facts.facts import Facts
from ear.judging.judge import Rules, judge
from ear.judging.judgement import Judgement
from ear.notes import Hand, Kind, Part, Take
from ear.players.pieces import HAT, drum_part, keyboard_part
from ear.players.robot import Habits, play

BARS, SEED = 12, 3
ONE_HAND = "one_hand"
"""On drums: without the hat."""
HABITS: dict[str, Habits] = {
    "clean": Habits(spread_ms=8, velocity_spread=3),
    "sd_25": Habits(spread_ms=25, velocity_spread=3),
    "sd_45": Habits(spread_ms=45, velocity_spread=3),
    "sd_80": Habits(spread_ms=80, velocity_spread=3),
    "wrong_5": Habits(spread_ms=8, velocity_spread=3, wrong_keys=0.05),
    "wrong_10": Habits(spread_ms=8, velocity_spread=3, wrong_keys=0.10),
    "wrong_25": Habits(spread_ms=8, velocity_spread=3, wrong_keys=0.25),
    ONE_HAND: Habits(spread_ms=8, velocity_spread=3),
    "other_tempo": Habits(spread_ms=8, velocity_spread=3, tempo_ratio=0.9),
    "stops": Habits(spread_ms=8, velocity_spread=3, stop_after_bar=8),
}
"""By the code of the example; words are the page's."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Example:
    """A made-up take and what a rubric gives it."""

    code: str
    judgement: Judgement


def examples(kind: Kind, rules: Rules) -> tuple[Example, ...]:
    """Return example takes with what the rules give each. Criteria that a teacher marks are left open."""
    return tuple(Example(code=code, judgement=judge(facts, rules)) for code, facts in _facts(kind))


@cache
def _facts(kind: Kind) -> tuple[tuple[str, Facts], ...]:
    """Measured once: no rule changes what was played."""
    part = keyboard_part(SEED, bars=BARS) if kind.instrument.has_key else drum_part(SEED, bars=BARS)
    return tuple((code, extract_facts(part, _take(part, code, habits))) for code, habits in HABITS.items())


def _take(part: Part, code: str, habits: Habits) -> Take:
    if code == ONE_HAND:
        kept = (n for n in part.notes if n.hand is not Hand.LEFT and n.pitch != HAT)
        return play(part.with_notes(kept), habits, seed=SEED)
    return play(part, habits, seed=SEED)
