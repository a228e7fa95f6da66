"""How each bar of a take went, in one word: for small pictures and the class picture."""

from collections import defaultdict
from dataclasses import dataclass
from typing import Any

from django.utils.text import capfirst
from django.utils.translation import gettext, ngettext, pgettext_lazy
from django.utils.translation import gettext_lazy as _

from ear.criteria.score import MISSED
from ear.criteria.table import FAULTS
from ear.criteria.timing.scoring import BESIDE, EARLY, LATE
from ear.facts.facts import Facts
from ear.judging.judgement import Judgement
from ear.notes import Part
from ear.words.phrases import listed
from oido.common.readers import PAGES
from oido.exercises.pages import voice_of

TROUBLE_FROM = 0.1
"""Share lost of what a bar is worth, from which a student has had trouble with it."""
FAULT_SHARES = (TROUBLE_FROM, 0.25, 0.5)
"""Shares of what a bar is worth from which on each darker shade of the class picture is used: a bar is tinted, and not
called well, if the student had trouble with it, and only then."""
STATES = {
    EARLY: "early",
    LATE: "late",
    BESIDE: "beside",
    MISSED: "missed",
}
"""By what cost a bar most; anything else is told as wrong."""
WELL = "well"
NAMES = {
    WELL: pgettext_lazy("timing", "well"), "early": pgettext_lazy("timing", "early"), "late": pgettext_lazy("timing", "late"), "beside": _("not with the click"),
    "missed": pgettext_lazy("timing", "missed"), "wrong": _("wrong"),
}  # fmt: skip


TROUBLE_NAMES = {state: name for state, name in NAMES.items() if state != WELL}


@dataclass(frozen=True, slots=True, kw_only=True)
class BarState:
    """`state`: well, early, late, beside, wrong or missed; `fault` is the share lost of what its notes are
    worth in the mark, 0 to 1."""

    number: int
    state: str
    fault: float

    @property
    def name(self) -> Any:
        return NAMES[self.state]

    @property
    def shade(self) -> int:
        return sum(self.fault >= share for share in FAULT_SHARES)

    @property
    def is_troubled(self) -> bool:
        return self.fault >= TROUBLE_FROM


def bar_states(part: Part, facts: Facts, judged: Judgement, voice: str | None = None) -> list[BarState]:
    """Return one entry for each bar that has notes (of one hand or lane, if it is named).

    What was made up has other bars empty in each take: of a free exercise all bars are shown.
    """
    bars: dict[int, list[int]] = defaultdict(list)
    # Facts of the first release do not hold the bars of their notes.
    numbers = facts.rows.bar or part.bar_of_note.tolist()
    for row in range(facts.target.notes):
        if voice is None or voice_of(part, part.notes[row]) == voice:
            bars[int(numbers[row])].append(row)
    each = 100.0 / max(1, facts.target.notes)
    states = {
        number: _state(number, rows, judged, worth=each * len(rows)) for number, rows in sorted(bars.items())
    }
    if facts.free is None:
        return list(states.values())
    empty = "missed" if facts.free.least_a_bar else WELL
    return [
        states.get(bar.number) or BarState(number=bar.number, state=empty, fault=float(empty != WELL))
        for bar in part.bars
    ]


def describe_bar_states(bars: list[BarState]) -> str:
    """Return how the bars went in words, the bars of each kind of trouble together."""
    phrases = []
    for state, name in TROUBLE_NAMES.items():
        numbers = [str(bar.number) for bar in bars if bar.state == state]
        if numbers:
            words = ngettext("bar %(bars)s %(state)s", "bars %(bars)s %(state)s", len(numbers))
            phrases.append(words % {"bars": listed(numbers, PAGES), "state": name})
    if not phrases:
        return gettext("Every bar went well.") if bars else ""
    troubles = capfirst("; ".join(phrases))
    if all(bar.state != WELL for bar in bars):
        return f"{troubles}."
    return gettext("%(troubles)s; the rest went well.") % {"troubles": troubles}


def _state(number: int, rows: list[int], judged: Judgement, *, worth: float) -> BarState:
    lost: dict[str, float] = {}
    for row in rows:
        if judged.verdicts[row] in FAULTS:
            named = STATES.get(judged.verdicts[row], "wrong")
            lost[named] = lost.get(named, 0.0) + judged.row_costs[row]
    fault = min(1.0, sum(lost.values()) / worth) if worth else 0.0
    state = max(lost, key=lost.__getitem__) if fault >= TROUBLE_FROM else WELL
    return BarState(number=number, state=state, fault=fault)
