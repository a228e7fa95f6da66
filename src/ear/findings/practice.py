"""Which bars to practise, and how, for each sort of ear note."""

from ear.findings.finding import Finding, Practice

SLOW, EASY, FULL = 0.75, 0.85, 1.0
"""Shares of the tempo: to find the notes, to make them sure, to feel the time."""
NO_CURE = frozenset({"empty", "foreign", "transposed", "looks_quantised", "same_recording"})
SHARES = {
    "wrong_key": SLOW,
    "missed": SLOW,
    "missed_lane": SLOW,
    "extras": SLOW,
    "slip": SLOW,
    "restart": SLOW,
    "skip": SLOW,
    "skip_bar": SLOW,
    "grazes": SLOW,
    "unsteady": EASY,
    "rolled_chords": EASY,
    "passage_early": EASY,
    "passage_late": SLOW,
    "uneven": EASY,
    "hand_late": EASY,
    "lag": FULL,
    "lead": FULL,
    "own_tempo": FULL,
    "late_start": FULL,
    "early_start": FULL,
}
JOIN = frozenset({"slip", "restart", "skip", "skip_bar"})
"""Practised with the bar before: the trouble is the way into the place."""
LONGEST = 4
"""Bars of a rung: more than these are practised from their start."""


def practice_for(finding: Finding, *, last_bar: int) -> Practice | None:
    """The rung that a finding suggests, within the part's bars."""
    if finding.is_praise or finding.kind in NO_CURE or finding.first_bar is None or finding.last_bar is None:
        return None
    first, last = finding.first_bar, finding.last_bar
    if finding.kind in JOIN:
        first, last = max(1, first - 1), min(last_bar, last + 1)
    if finding.targets:
        last = min(last, first + LONGEST - 1)
    return Practice(
        first_bar=first,
        last_bar=last,
        tempo_share=SHARES.get(finding.kind, EASY),
        alone=finding.place if finding.kind.startswith(("lane_", "hand_", "missed_lane")) else None,
    )
