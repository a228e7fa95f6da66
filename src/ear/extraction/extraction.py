"""Facts of a take: matched, measured and listened to."""

from collections.abc import Collection, Mapping, Sequence

import numpy as np

from ear.extraction.listen import listen, own_columns
from ear.facts.facts import (
    BarTempoFact,
    Facts,
    FigureFacts,
    OrnamentRow,
    PedalFact,
    PlaceFact,
    Profile,
    RampFact,
    RowFacts,
    SlipFact,
    TakeFacts,
    TargetFacts,
    TempoFact,
)  # fmt: skip
from ear.facts.sections import by_section
from ear.findings.context import Context
from ear.findings.standing import Standing
from ear.free.bend import MIN_BEND
from ear.free.exercise import FreeExercise
from ear.free.realised import realised
from ear.matching.bar_again import match_bars_again
from ear.matching.in_order import scatter, scatter_of_beats
from ear.matching.match import match
from ear.matching.outcome import Slip
from ear.measuring.dynamics import accented, voices
from ear.measuring.fairness import Imprint
from ear.measuring.figures import Figure, Floats
from ear.measuring.linked import click_seconds
from ear.measuring.measure import is_in_count_in, measure
from ear.measuring.measures import Measures, PlaceProfile
from ear.notes import STANDARD_KIT, KitMap, Part, Take, allows
from ear.notes.ending import Ending
from ear.units import TICKS_PER_QUARTER

VERSION = "2026.12.10"
"""Of the measuring code; kept with all facts, so that they can be told apart."""
SCATTER_FULL, SCATTER_NONE = 0.28, 0.43
"""Robust spread of the logarithm of gaps, played over written, up to which a take is in time without doubt, and from
which it is as notes at random are: gaps anywhere between nothing and twice their length scatter by more than that."""
MS_DIGITS, RATIO_DIGITS = 2, 3


def extract_facts(
    part: Part,
    take: Take,
    *,
    kit: KitMap = STANDARD_KIT,
    has_click: bool = True,
    before: Sequence[Standing] = (),
    others: Sequence[tuple[str, Imprint]] = (),
    free: FreeExercise | None = None,
    again: Collection[int] = (),
    landings: Mapping[int, int] | None = None,
    ending: Ending = Ending.STOPPED,
) -> Facts:
    """Match, measure and listen to a take, and return its facts.

    An empty or foreign take gives facts without links. Bars named in `again` are matched once more by
    themselves; `landings` are known places of jumps (`match`); `ending` says why the recording ended.

    Where the exercise is `free`, `part` is its page, and rows are notes where they should have been (`realised`).
    Without a click nothing is said of lead, lag or the tempo set; an even bend of the tempo is told and taken out. `before` is how the player's takes
    before it stood, the last first, so that progress can be told; `others` are imprints of other players' takes, each with whose it is, among
    which the same recording is looked for.
    """
    ends, in_time, known = (1.0, 1.0), 1.0, None
    recorded = take
    if free is not None:
        known = realised(free, take, page=part)
        part, take, matched = known.part, known.take, known.match
        ends, in_time = known.ends, known.in_time
    else:
        matched = match_bars_again(part, take, match(part, take, kit=kit, landings=landings), again, kit=kit)
        if not has_click:
            in_time = _in_time(part, take)
    measures = measure(part, take, matched, kit=kit, has_click=has_click)
    bpm = part.tempos.first_bpm
    is_bent = abs(ends[1] / ends[0] - 1.0) >= MIN_BEND and in_time > 0.0
    pace_bpm = (round(ends[0] * bpm, 2), round(ends[1] * bpm, 2)) if is_bent else None
    context = Context(
        part=part, take=take, match=matched, measures=measures, kit=kit, before=tuple(before), others=tuple(others),
        pace=pace_bpm, free=known.facts if known else None, in_time=in_time, recorded=recorded, ending=ending,
    )  # fmt: skip
    rows = _rows(context, own=own_columns(context))
    sections = by_section(part, rows, has_own_tempo=pace_bpm is None and in_time > 0.0)
    return Facts(
        version=VERSION,
        target=TargetFacts(
            kind=part.kind,
            notes=len(part.notes),
            bars=part.last_bar,
            bpm=part.tempos.first_bpm,
            meter=f"{part.meters.first.numerator}/{part.meters.first.denominator}",
            grid_ticks=measures.grid_ticks,
        ),
        take=TakeFacts(
            notes=len(take.notes),
            latency_ms=take.latency_ms,
            has_touch=take.has_touch,
            has_click=has_click,
            looks_quantised=measures.looks_quantised,
            is_foreign=matched.is_foreign,
            likeness=round(matched.likeness, 4),
            has_pedal=take.has_touch or bool(take.pedal),
            in_time=round(in_time, 4),
        ),
        counts=measures.counts,
        rows=rows,
        figures=_figures(measures, pace_bpm),
        slips=tuple(_slip(part, slip) for slip in matched.time_base.slips),
        ramps=tuple(
            RampFact(
                beats=(ramp.first_tick / TICKS_PER_QUARTER, ramp.last_tick / TICKS_PER_QUARTER),
                target_slope=round(ramp.target_slope, RATIO_DIGITS),
                take_slope=round(ramp.take_slope, RATIO_DIGITS),
            )
            for ramp in measures.feel.ramps
        ),
        snap_errors=measures.feel.snap_errors,
        transposition=matched.transposition,
        unplayed_bars_at_end=measures.unplayed_bars_at_end,
        profile=Profile(
            tick=_profile(measures.timing.by_tick),
            lane=_profile(measures.timing.by_lane),
            hand=_profile(measures.timing.by_hand),
            bar=_profile(measures.timing.by_bar),
        ),
        findings=listen(context),
        pedal=_pedal(part, measures),
        free=known.facts if known else None,
        sections=sections,
        tempo=_tempo(measures),
        bar_tempos=_bar_tempos(measures),
    )


def _in_time(part: Part, take: Take) -> float:
    """How surely a take without a click is in time at all."""
    spread = scatter(part, take)
    if spread is None:
        return 1.0
    if spread > SCATTER_FULL:
        of_beats = scatter_of_beats(part, take)
        spread = min(spread, of_beats) if of_beats is not None else spread
    return float(np.clip((SCATTER_NONE - spread) / (SCATTER_NONE - SCATTER_FULL), 0.0, 1.0))


def _rows(c: Context, *, own: Mapping[str, tuple[float | None, ...]]) -> RowFacts:
    part, take, matched, measures, kit = c.part, c.take, c.match, c.measures, c.kit
    pairs, linked = matched.pairs, c.linked.tolist()
    played = [p.take for p in matched.links if p.take is not None]
    quarter = part.onset_ticks[linked] / TICKS_PER_QUARTER
    click = 1000.0 * (take.onsets_s[played] - click_seconds(part, matched.time_base, quarter))
    return RowFacts(
        target=tuple(p.target for p in pairs),
        take=tuple(p.take for p in pairs),
        outcome=tuple(p.outcome for p in pairs),
        deviation_ms=_all_rounded([n.deviation_ms for n in measures.notes], MS_DIGITS),
        on_click_ms=_all_rounded([n.on_click_ms for n in measures.notes], MS_DIGITS),
        click_ms=_column(len(pairs), linked, click),
        pulse_ms=_column(len(pairs), linked, c.pulse_ms),
        velocity_difference=tuple(n.velocity_difference for n in measures.notes),
        length_ratio=_all_rounded([n.length_ratio for n in measures.notes], RATIO_DIGITS),
        near=tuple(p.near for p in pairs),
        grazes=tuple(n for n, p in enumerate(pairs) if p.is_graze),
        abandoned=tuple(n for n, p in enumerate(pairs) if p.is_abandoned),
        ornaments=tuple(
            OrnamentRow(
                row=n, ornament=p.ornament, is_written=allows(part.notes[p.near].ornament, p.ornament)
            )
            for n, p in enumerate(pairs)
            if p.ornament is not None and p.near is not None
        ),
        overlaid=tuple(n for n, p in enumerate(pairs) if p.is_overlaid),
        put_right=tuple(n for n, p in enumerate(pairs) if p.is_put_right),
        in_count_in=tuple(n for n, p in enumerate(pairs) if is_in_count_in(p, take)),
        bar=tuple(part.bar_of_note.tolist()),
        written=tuple(part.velocities.tolist()),
        voice=tuple(voices(part, kit=kit).tolist()),
        accents=tuple(np.flatnonzero(accented(part, kit=kit)).tolist()),
        own=own,
    )


def _column(rows: int, at: Sequence[int], values: Floats) -> tuple[float | None, ...]:
    column: list[float | None] = [None] * rows
    for i, value in zip(at, np.round(values, MS_DIGITS).tolist(), strict=True):
        column[i] = value
    return tuple(column)


def _all_rounded(values: Sequence[float | None], digits: int) -> tuple[float | None, ...]:
    """As `_rounded`; of many at once it takes a third of the time."""
    rounded = np.round(np.array(values, dtype=np.float64), digits).tolist()
    return tuple(None if value is None else actual for value, actual in zip(values, rounded, strict=True))


def _rounded(value: float | None, digits: int) -> float | None:
    return None if value is None else round(value, digits)


def _figures(measures: Measures, pace: tuple[float, float] | None) -> FigureFacts:
    timing, dynamics, feel = measures.timing, measures.dynamics, measures.feel
    figures: dict[str, Figure] = {
        "bias_ms": timing.bias_ms,
        "spread_ms": timing.spread_ms,
        "drift_ms_per_bar": timing.drift_ms_per_bar,
        "chord_spread_ms": timing.chord_spread_ms,
        "length_ratio": measures.length_ratio,
        "overlap_ms": feel.overlap_ms,
        "swing_ratio": feel.swing_ratio,
        "target_swing_ratio": feel.target_swing_ratio,
        "level": dynamics.level,
        "range": dynamics.range_ratio,
        "contour": dynamics.contour,
        "accent_contrast": dynamics.accent_contrast,
        "target_accent_contrast": dynamics.target_accent_contrast,
        "evenness": dynamics.evenness,
    }
    return FigureFacts(
        **{name: _rounded(f.value, RATIO_DIGITS) for name, f in figures.items()},
        tempo_ratio=round(timing.tempo_ratio, 5),
        played_bpm=round(timing.played_bpm, 2),
        pace=pace,
        why_not={name: f.why_not.value for name, f in figures.items() if f.why_not},
    )


def _tempo(measures: Measures) -> tuple[TempoFact, ...]:
    return tuple(
        TempoFact(
            bars=one.bars, first_bpm=round(one.first_bpm, 2), last_bpm=round(one.last_bpm, 2),
            click_bpm=round(one.click_bpm, 2),
        )
        for one in measures.tempo
    )  # fmt: skip


def _bar_tempos(measures: Measures) -> tuple[BarTempoFact, ...]:
    return tuple(
        BarTempoFact(
            bar=one.bar, click_bpm=round(one.click_bpm, 2), stretch_bpm=round(one.stretch_bpm, 2),
            own_bpm=_rounded(one.own_bpm, 2),
        )
        for one in measures.bar_tempos
    )  # fmt: skip


def _pedal(part: Part, measures: Measures) -> tuple[PedalFact, ...]:
    pedal = []
    for move in measures.pedal:
        bar = part.meters.bar_at(move.tick)
        pedal.append(
            PedalFact(
                move=move.move, bar=bar.number,
                beat=round((move.tick - bar.start_tick) / TICKS_PER_QUARTER + 1, 3),
                outcome=move.outcome, deviation_ms=_rounded(move.deviation_ms, MS_DIGITS), row=move.row,
            )
        )  # fmt: skip
    return tuple(pedal)


def _slip(part: Part, slip: Slip) -> SlipFact:
    bar = part.meters.bar_at(slip.quarter * TICKS_PER_QUARTER)
    return SlipFact(
        kind=slip.kind,
        bar=bar.number,
        beat=round(slip.quarter - bar.start_tick / TICKS_PER_QUARTER + 1, 3),
        beats=round(slip.quarters, 3),
        row=slip.target,
        could_land=slip.could_land,
        is_told=slip.is_told,
        attempts=slip.attempts,
    )


def _profile(profiles: tuple[PlaceProfile, ...]) -> tuple[PlaceFact, ...]:
    return tuple(
        PlaceFact(
            place=p.place, count=p.count, median_ms=round(p.median_ms, 2), spread_ms=round(p.spread_ms, 2)
        )
        for p in profiles
    )


def standing_of(facts: Facts) -> Standing | None:
    """Return how a take stood, for comparison with the next one; None if nothing of the part was found in it."""
    if facts.is_nothing:
        return None
    counts = facts.counts
    return Standing(
        target=counts.target,
        matched=counts.matched,
        linked=counts.matched + counts.wrong_pitch,
        slips=len(facts.slips),
        bias_ms=facts.figures.bias_ms,
        spread_ms=facts.figures.spread_ms,
    )
