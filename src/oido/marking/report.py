"""What a take's report shows, from stored data alone."""

from dataclasses import dataclass
from typing import Any

from ear.drawing.boxes import EarMark, Flag, Overlay, PageView, Played
from ear.drawing.page import page_view
from ear.marking.levels import Window
from ear.notes import Part
from oido.exercises.pages import PAGE_WIDTH
from oido.marking.models import Remark
from oido.takes.bars import forgiven_ms
from oido.takes.models import Take

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
SHOWN_FIRST = 5
EARLY_KINDS = frozenset({"lead", "rushing", "lane_early", "place_early", "passage_early"})
LATE_KINDS = frozenset(
    {"lag", "dragging", "lane_late", "place_late", "passage_late", "slip", "restart", "hand_late"}
)
WRONG_KINDS = frozenset({"wrong_key", "extras", "doubles", "grazes"})


@dataclass(frozen=True, slots=True, kw_only=True)
class EarNote:
    letter: str
    tone: str
    text: str
    cost: float
    criterion: str | None
    first_bar: int | None
    last_bar: int | None
    targets: tuple[int, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberedRemark:
    number: int
    remark: Remark


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    part: Part
    page: PageView
    ear_notes: tuple[EarNote, ...]
    more_notes: tuple[EarNote, ...]
    praise: tuple[str, ...]
    remarks: tuple[NumberedRemark, ...]
    table: tuple[dict[str, Any], ...]


def make_report(take: Take, *, for_teacher: bool, remarks: list[Remark]) -> Report:
    """A report for one of the two readers; remarks are those that the reader may see."""
    part, played, result = take.target(), take.read(), take.measurement.result
    notes = [n for n in result["ear_notes"] if not n["praise"]]
    said = "teacher" if for_teacher else "student"
    ear_notes = tuple(
        EarNote(
            letter=LETTERS[k % len(LETTERS)],
            tone=tone_of(note["kind"]),
            text=note[said],
            cost=note["cost"],
            criterion=note["criterion"],
            first_bar=note["bars"][0] if note["bars"] else None,
            last_bar=note["bars"][1] if note["bars"] else None,
            targets=tuple(note["targets"]),
        )
        for k, note in enumerate(notes)
    )
    numbered = tuple(NumberedRemark(number=k + 1, remark=r) for k, r in enumerate(remarks))
    overlay = Overlay(
        take=played,
        rows=[Played.from_json(row) for row in result["pairs"]],
        window=Window(**result["window"]),
        forgiven_ms=forgiven_ms(result),
        tempo_ratio=result["measures"]["tempo_ratio"],
    )
    page = page_view(
        part,
        width=PAGE_WIDTH,
        overlay=overlay,
        ear_marks=[EarMark(letter=n.letter, tone=n.tone, targets=n.targets) for n in ear_notes[:SHOWN_FIRST]],
        flags=[
            Flag(number=n.number, tick=_tick(part, n.remark)) for n in numbered if n.remark.bar is not None
        ],
    )
    return Report(
        part=part,
        page=page,
        ear_notes=ear_notes[:SHOWN_FIRST],
        more_notes=ear_notes[SHOWN_FIRST:],
        praise=tuple(n[said] for n in result["ear_notes"] if n["praise"]),
        remarks=numbered,
        table=tuple(_table(part, result)),
    )


def tone_of(kind: str) -> str:
    if kind in EARLY_KINDS:
        return "early"
    if kind in LATE_KINDS:
        return "late"
    return "wrong" if kind in WRONG_KINDS else "plain"


def _tick(part: Part, remark: Remark) -> int:
    bar = part.meters.bar(remark.bar or 1)
    return bar.start_tick + ((remark.beat or 1) - 1) * bar.meter.beat_ticks


def _table(part: Part, result: dict[str, Any]) -> list[dict[str, Any]]:
    """Bar by bar, what the picture shows."""
    rows: dict[int, dict[str, Any]] = {}
    for row in result["pairs"]:
        if row["target"] is None:
            continue
        number = part.meters.bar_at(part.notes[row["target"]].onset_tick).number
        bar = rows.setdefault(
            number, {"bar": number, "notes": 0, "matched": 0, "wrong": 0, "missed": 0, "deviations": []}
        )
        bar["notes"] += 1
        key = {"matched": "matched", "wrong_pitch": "wrong", "missed": "missed"}[row["outcome"]]
        bar[key] += 1
        if row["deviation_ms"] is not None:
            bar["deviations"].append(row["deviation_ms"])
    for bar in rows.values():
        found = bar.pop("deviations")
        bar["mean_ms"] = sum(found) / len(found) if found else None
        bar["most_ms"] = max(found, key=abs) if found else None
    return [rows[number] for number in sorted(rows)]
