"""Results of the first release, schema `oido.measure/1`, as facts.

Links, outcomes and figures are taken as they stand. What that release did not store is made from what it
did: the deviation from the click by the nearest beat, the pulse by the player's own time base. Bars,
written velocities and accents are not known. Its ear notes keep the sentences that it stored.
"""

from collections.abc import Mapping
from typing import Any

from ear.extraction.stored_sentences import StoredSentences
from ear.facts.facts import (
    Facts,
    FigureFacts,
    PlaceFact,
    Profile,
    RampFact,
    RowFacts,
    SlipFact,
    TakeFacts,
    TargetFacts,
)  # fmt: skip
from ear.matching.outcome import Outcome, SlipKind
from ear.measuring.figures import WhyNot
from ear.measuring.measures import Counts
from ear.notes import Kind

SCHEMA = "oido.measure/1"
FIGURES = (
    "bias_ms", "spread_ms", "drift_ms_per_bar", "chord_spread_ms", "length_ratio", "overlap_ms", "swing_ratio",
    "target_swing_ratio", "level", "range", "contour", "accent_contrast", "target_accent_contrast", "evenness",
)  # fmt: skip
WHY_NOT = {
    "the source has no touch": WhyNot.NO_TOUCH,
    "no note was matched": WhyNot.NO_NOTES,
    "the part writes no accents": WhyNot.NO_ACCENTS,
    "the part is written at one strength": WhyNot.WRITTEN_FLAT,
    "too few notes are written alike": WhyNot.FEW_ALIKE,
    "fewer than 3 off-beats stand alone between two beats": WhyNot.FEW_OFF_BEATS,
    "a drum hit has no length": WhyNot.STROKES_HAVE_NO_LENGTH,
    "too few notes are written without a gap": WhyNot.FEW_JOINED,
    "no note was held by finger alone": WhyNot.ALL_PEDALLED,
    "recorded without a click": WhyNot.NO_CLICK,
    "fewer than 2 bars were played": WhyNot.FEW_BARS,
    "no two notes are written together": WhyNot.NO_CHORDS,
}
"""That release stored its reasons as these sentences. Any other said how many notes were too few."""


def facts_of_first_release(data: Mapping[str, Any]) -> Facts:
    """Return facts that the first release stored as today's values.

    Raises KeyError, TypeError or ValueError for anything else.
    """
    if data["schema"] != SCHEMA:
        raise ValueError(f"schema {data['schema']!r}")
    measures, target, take = data["measures"], data["target"], data["take"]
    counts = Counts(**measures["counts"])
    rows = _rows(data["pairs"], measures, target)
    return Facts(
        version=str(data["version"]),
        target=TargetFacts(
            kind=Kind(target["kind"]), notes=int(target["notes"]), bars=int(target["bars"]),
            bpm=float(target["bpm"]), meter=str(target["meter"]), grid_ticks=int(measures["grid_ticks"]),
        ),
        take=TakeFacts(
            notes=int(take["notes"]), latency_ms=float(take["latency_ms"]), has_touch=bool(take["has_touch"]),
            has_click=bool(take.get("has_click", True)), looks_quantised=bool(take.get("looks_quantised", False)),
            is_foreign=bool(take["is_foreign"]), likeness=0.0 if take["is_foreign"] else 1.0,
        ),
        counts=counts,
        rows=rows,
        figures=FigureFacts(
            # A figure that an older version of that release did not have is one that there is not.
            **{name: measures.get(name) for name in FIGURES},
            tempo_ratio=float(measures["tempo_ratio"]),
            played_bpm=float(measures["played_bpm"]),
            why_not={
                name: WHY_NOT.get(text, WhyNot.FEW_NOTES).value
                for name, text in measures.get("why_not", {}).items()
            },
        ),
        slips=tuple(
            SlipFact(kind=SlipKind(s["kind"]), bar=int(s["bar"]), beat=float(s["beat"]), beats=float(s["beats"]))
            for s in measures["slips"]
        ),
        ramps=tuple(
            RampFact(
                beats=(float(r["beats"][0]), float(r["beats"][1])),
                target_slope=float(r["target_slope"]), take_slope=float(r["take_slope"]),
            )
            for r in measures.get("ramps", ())
        ),
        snap_errors=tuple(int(i) for i in measures.get("snap_errors", ())),
        transposition=int(measures["transposition"]),
        unplayed_bars_at_end=int(measures["unplayed_bars_at_end"]),
        profile=Profile(**{name: _profile(places) for name, places in measures.get("profile", {}).items()}),
        findings=tuple(_ear_note(note, rows) for note in data["ear_notes"]),
    )  # fmt: skip


def _rows(pairs: list[dict[str, Any]], measures: Mapping[str, Any], target: Mapping[str, Any]) -> RowFacts:
    beat_ms = 60_000.0 / target["bpm"] * (1.5 if target["meter"] in ("6/8", "9/8", "12/8") else 1.0)
    pulse = iter(measures.get("pulse_ms") or ())
    has_pulse = bool(measures.get("pulse_ms"))
    keeps_tempo = measures["tempo_ratio"] == 1.0
    bias = measures.get("bias_ms") or 0.0

    def click(row: dict[str, Any]) -> float | None:
        if row["on_click_ms"] is None:
            return None
        slipped = row["on_click_ms"] - row["deviation_ms"] if keeps_tempo else 0.0
        return float(round(row["on_click_ms"] - round(slipped / beat_ms) * beat_ms, 2))

    def from_pulse(row: dict[str, Any]) -> float | None:
        if row["deviation_ms"] is None:
            return None
        return float(next(pulse)) if has_pulse else round(float(row["deviation_ms"]) - bias, 2)

    return RowFacts(
        target=tuple(row["target"] for row in pairs),
        take=tuple(row["take"] for row in pairs),
        outcome=tuple(Outcome(row["outcome"]) for row in pairs),
        deviation_ms=tuple(row["deviation_ms"] for row in pairs),
        on_click_ms=tuple(row["on_click_ms"] for row in pairs),
        click_ms=tuple(click(row) for row in pairs),
        pulse_ms=tuple(from_pulse(row) for row in pairs),
        velocity_difference=tuple(row["velocity_difference"] for row in pairs),
        length_ratio=tuple(row["length_ratio"] for row in pairs),
        near=tuple(row.get("near") for row in pairs),
        grazes=tuple(n for n, row in enumerate(pairs) if row.get("graze")),
        abandoned=tuple(n for n, row in enumerate(pairs) if row.get("restart")),
    )


def _profile(places: list[dict[str, Any]]) -> tuple[PlaceFact, ...]:
    return tuple(PlaceFact(**place) for place in places)


def _ear_note(note: Mapping[str, Any], rows: RowFacts) -> StoredSentences:
    row_of_take = {take: n for n, take in enumerate(rows.take) if take is not None}
    numbered = {*note["targets"], *(row_of_take[j] for j in note["takes"] if j in row_of_take)}
    return StoredSentences(
        rows=tuple(sorted(int(n) for n in numbered)),
        bars=(int(note["bars"][0]), int(note["bars"][1])) if note["bars"] else None,
        cause=str(note["kind"]),
        teacher=str(note["teacher"]),
        student=str(note["student"]),
        stored_size=float(note["size"]),
        stored_unit=str(note["unit"]),
        stored_place=note["place"],
        stored_quarter=note["beat"],
    )
