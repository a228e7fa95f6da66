"""A take's part as drawn notation, each head with how it was played."""

from ear.conventions import Conventions
from ear.criteria.notes.scoring import WRONG
from ear.criteria.score import MISSED
from ear.criteria.timing.scoring import BESIDE, EARLY, LATE
from ear.labels import LabelKind
from ear.notation.engraving import SEED, HeadMark, notation_svg, with_classes, with_marks
from oido.common.readers import reader_with
from oido.reports.analysed_take import AnalysedTake

LABELS = frozenset({LabelKind.FINGERS, LabelKind.CHORDS})
MARKS = {
    EARLY: HeadMark.EARLY,
    LATE: HeadMark.LATE,
    BESIDE: HeadMark.BESIDE,
    WRONG: HeadMark.WRONG,
    MISSED: HeadMark.MISSED,
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
        analysed.part, width=width, labels=LABELS, reader=reader_with(conventions), bars=bars, seed=seed
    )
    verdicts = {at.row.target: at.row.verdict for at in analysed.rows() if at.row.target is not None}
    svg = with_classes(svg, {i: f"went-{verdict}" for i, verdict in verdicts.items()})
    return with_marks(svg, {i: MARKS[verdict] for i, verdict in verdicts.items() if verdict in MARKS})
