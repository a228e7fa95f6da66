"""An assessment as text for a terminal."""

from collections.abc import Iterator

from ear.assess import Assessment
from ear.measuring.figures import Figure

EAR_NOTES_SHOWN = 5


def summary(a: Assessment) -> str:
    return "\n".join(_lines(a))


def _lines(a: Assessment) -> Iterator[str]:
    counts, timing = a.measures.counts, a.measures.timing
    meter = a.part.meters.first
    yield (
        f"{a.part.kind.value}, {len(a.part.bars)} bars of {meter.numerator}/{meter.denominator} "
        f"at {a.part.tempos.first_bpm:g}, level {a.level.name}"
    )
    yield (
        f"{counts.target} notes written, {counts.take} played: {counts.matched} right, "
        f"{counts.wrong_pitch} wrong, {counts.missed} missed, {counts.doubles} doubles, "
        f"{counts.grazes} grazes, {counts.extras} extra, {counts.abandoned} of abandoned tries"
    )
    yield f"lead or lag  {_said(timing.bias_ms, 'ms', sign=True)}"
    yield f"steadiness   {_said(timing.spread_ms, 'ms')}"
    yield f"drift        {_said(timing.drift_ms_per_bar, 'ms per bar', sign=True)}"
    yield f"tempo        {timing.played_bpm:.1f} a minute, {timing.tempo_ratio:.3f} of the click's"
    yield ""
    for criterion in a.mark.criteria:
        score = "not assessed" if criterion.score is None else f"{criterion.score:5.0f}"
        yield f"{criterion.name:10} {score}  weight {criterion.weight:.0f} %"
        for line in criterion.working:
            yield f"             {line.label}: {line.figure}"
    yield f"mark       {a.mark.score:5.0f}  {a.mark.band.name}"
    yield ""
    for finding in a.findings[:EAR_NOTES_SHOWN]:
        cost = f" (costs {finding.cost:.1f})" if finding.cost else ""
        yield f"- {finding.for_teacher.said()}{cost}"
    if len(a.findings) > EAR_NOTES_SHOWN:
        yield f"  and {len(a.findings) - EAR_NOTES_SHOWN} more"


def _said(figure: Figure, unit: str, *, sign: bool = False) -> str:
    if figure.value is None:
        return f"none: {figure.why_not}"
    return f"{figure.value:{'+' if sign else ''}.1f} {unit}"
