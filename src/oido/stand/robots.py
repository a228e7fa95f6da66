"""Robot players to choose from at the Stand of a demo school."""

from dataclasses import dataclass
from typing import Any

from django.utils.translation import gettext_lazy as _

from ear.players.robot import Habits


@dataclass(frozen=True, slots=True, kw_only=True)
class Robot:
    name: Any
    habits: Habits


ROBOTS = {
    "steady": Robot(name=_("steady"), habits=Habits(spread_ms=9, velocity_spread=4)),
    "late": Robot(name=_("behind the click"), habits=Habits(lead_ms=45, spread_ms=14, velocity_spread=6)),
    "rushing": Robot(name=_("rushes"), habits=Habits(drift_ms_per_bar=-14, spread_ms=14, velocity_spread=6)),
    "careless": Robot(
        name=_("careless"),
        habits=Habits(spread_ms=22, wrong_keys=0.08, misses=0.06, velocity_spread=10),
    ),
}
