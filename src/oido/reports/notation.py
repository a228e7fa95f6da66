"""A take's part as drawn notation, each head with how it was played."""

from ear.judging.judgement import Verdict
from ear.labels import Conventions, LabelKind
from ear.notation.engraving import SEED, HeadMark, notation_svg, with_classes, with_marks
from oido.reports.analysed_take import AnalysedTake

LABELS = frozenset({LabelKind.FINGERS, LabelKind.CHORDS})
MARKS = {
    Verdict.EARLY: HeadMark.EARLY,
    Verdict.LATE: HeadMark.LATE,
    Verdict.BESIDE: HeadMark.BESIDE,
    Verdict.WRONG: HeadMark.WRONG,
    Verdict.MISSED: HeadMark.MISSED,
}


def notated(
    analysed: AnalysedTake,
    conventions: Conventions,
    *,
    width: float,
    bars: range | None = None,
    seed: int = SEED,
) -> str:
    svg = notation_svg(
        analysed.part, width=width, labels=LABELS, conventions=conventions, bars=bars, seed=seed
    )
    verdicts = {at.row.target: at.row.verdict for at in analysed.rows() if at.row.target is not None}
    svg = with_classes(svg, {i: f"went-{verdict.value}" for i, verdict in verdicts.items()})
    return with_marks(svg, {i: MARKS[verdict] for i, verdict in verdicts.items() if verdict in MARKS})
