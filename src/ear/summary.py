"""An assessment as text for a terminal."""

from collections.abc import Iterator

from ear.assess import Assessment
from ear.criteria.levels import LEVELS
from ear.findings.kind import FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.working import describe_ceiling, describe_line, describe_rest
from ear.numerals import decimal, signed
from ear.reader import ENGLISH
from ear.words.why_not import WHY_NOT

EAR_NOTES_SHOWN = 5


def summary(a: Assessment) -> str:
    """Return an assessment as a few lines of plain text."""
    return "\n".join(_lines(a))


def _lines(a: Assessment) -> Iterator[str]:
    facts, judged = a.facts, a.judgement
    counts, figures = facts.counts, facts.figures
    yield (
        f"{facts.target.kind.value}, {facts.target.bars} bars of {facts.target.meter} "
        f"at {facts.target.bpm:g}, level {LEVELS[judged.scores.level].name}"
    )
    yield (
        f"{counts.target} notes written, {counts.take} played: {counts.matched} right, "
        f"{counts.wrong_pitch} wrong, {counts.missed} missed, {counts.doubles} double hits, "
        f"{counts.grazes} brushed, {counts.extras} extra, {counts.abandoned} of false starts, "
        f"{counts.ornaments} of ornaments, {counts.overlaid} of a second pass, {counts.put_right} put right, {counts.in_count_in} in the count-in"
    )
    for label, name, unit in (
        ("lead or lag ", "bias_ms", "ms"),
        ("steadiness  ", "spread_ms", "ms"),
        ("drift       ", "drift_ms_per_bar", "ms per bar"),
    ):
        value = getattr(figures, name)
        shown = f"none: {ENGLISH.say(WHY_NOT[figures.why_not[name]], {})}" if value is None else ""
        yield f"{label} {shown or f'{signed(value, 1)} {unit}'}"
    yield f"tempo        {figures.played_bpm:.1f} a minute, {figures.tempo_ratio:.3f} of the click's"
    if len(facts.tempo) > 1 or any(stretch.first_bpm != stretch.last_bpm for stretch in facts.tempo):
        for stretch in facts.tempo:
            last = "" if stretch.first_bpm == stretch.last_bpm else f" to {stretch.last_bpm:.1f}"
            yield f"             bars {stretch.bars[0]} to {stretch.bars[1]}: {stretch.first_bpm:.1f}{last}"
    yield ""
    for c in judged.criteria:
        sums = "not assessed" if c.score is None else f"{c.score:5.1f} × {c.weight}% = {decimal(c.points)}"
        yield f"{c.name:10} {sums}"
        for line in (describe_line(line, ENGLISH) for line in c.lines):
            yield f"             {line.label}{': ' if line.figure else ''}{line.figure}"
    yield f"sum        {decimal(judged.sum)}"
    if judged.ceiling is not None:
        bound = describe_ceiling(judged.ceiling, ENGLISH)
        yield f"           {bound.label} = {bound.figure}"
    yield f"mark       {judged.points:g} of {judged.out_of}  {judged.band.name}"
    yield ""
    for fault in judged.faults[:EAR_NOTES_SHOWN]:
        cost = f" (costs {fault.cost:.1f})" if fault.cost else ""
        yield f"- {render_finding(fault.finding, FOR_TEACHER, ENGLISH)}{cost}"
    if len(judged.faults) > EAR_NOTES_SHOWN:
        yield f"  and {len(judged.faults) - EAR_NOTES_SHOWN} more"
    if judged.rest.cost >= 0.05:
        yield f"- {describe_rest(judged.rest, ENGLISH)}"
    for finding in judged.praise:
        yield f"+ {render_finding(finding, FOR_TEACHER, ENGLISH)}"
