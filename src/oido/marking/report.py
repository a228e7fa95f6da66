"""What a take's report shows, from stored data alone."""

from dataclasses import dataclass
from typing import Any, NamedTuple

from django.utils.translation import gettext as _

from ear.drawing.boxes import EarMark, Flag, PageView
from ear.drawing.page import page_rows, page_view
from ear.drawing.profiles import PlaceFigures, Profile, profile
from ear.drawing.verdicts import RowAt, Selection, note_id
from ear.labels.counting import syllable
from ear.notes import Part
from oido.exercises.pages import FINE
from oido.marking.looking import Look, voice_name
from oido.marking.models import Remark
from oido.marking.reading import Reading

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
SHOWN_FIRST = 5
ROWS_AT_ONCE = 6
"""Rows that come with the page; it asks for the others by itself, so many at a time."""
ROWS_NEXT = 24
RUN_UP_BEATS = 1.0
LONGEST_FAULT_S = 2.0
"""A missed long note is heard no further than this."""
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
    takes: tuple[int, ...]

    @property
    def points_at(self) -> str:
        """The notes that are its evidence, by their ids on the page."""
        return " ".join([*(f"t{i}" for i in self.targets), *(f"k{j}" for j in self.takes)])


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberedRemark:
    number: int
    remark: Remark


@dataclass(frozen=True, slots=True, kw_only=True)
class Rows:
    """Some rows of the page of music, and where to go on."""

    page: PageView
    next_from: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedProfile:
    title: str
    profile: Profile


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    part: Part
    rows: Rows
    look: Look
    ear_notes: tuple[EarNote, ...]
    more_notes: tuple[EarNote, ...]
    praise: tuple[str, ...]
    remarks: tuple[NumberedRemark, ...]
    table: tuple[dict[str, Any], ...]
    profiles: tuple[NamedProfile, ...]
    faults: tuple["Fault", ...]


class Fault(NamedTuple):
    """What went wrong, and the seconds of the music in which it is heard with its run-up. A tuple: a page
    is told of many."""

    note: str
    first_s: float
    last_s: float


def make_report(
    reading: Reading,
    *,
    for_teacher: bool,
    remarks: list[Remark],
    look: Look,
    rows_at_once: int = ROWS_AT_ONCE,
) -> Report:
    """A report for one of the two readers; remarks are those that the reader may see."""
    ear_notes = ear_notes_of(reading.result, for_teacher=for_teacher)
    said = "teacher" if for_teacher else "student"
    return Report(
        part=reading.part,
        rows=draw_rows(reading, look, for_teacher=for_teacher, remarks=remarks, count=rows_at_once),
        look=look,
        ear_notes=ear_notes[:SHOWN_FIRST],
        more_notes=ear_notes[SHOWN_FIRST:],
        praise=tuple(n[said] for n in reading.result["ear_notes"] if n["praise"]),
        remarks=numbered(remarks),
        table=tuple(_table(reading, look.selection)),
        profiles=_profiles(reading),
        faults=_faults(reading, look.selection),
    )


def ear_notes_of(result: dict[str, Any], *, for_teacher: bool) -> tuple[EarNote, ...]:
    """All but praise, lettered, the most costly first."""
    return tuple(
        EarNote(
            letter=LETTERS[k % len(LETTERS)],
            tone=tone_of(note["kind"]),
            text=note["teacher" if for_teacher else "student"],
            cost=note["cost"],
            criterion=note["criterion"],
            first_bar=note["bars"][0] if note["bars"] else None,
            last_bar=note["bars"][1] if note["bars"] else None,
            targets=tuple(note["targets"]),
            takes=tuple(note["takes"]),
        )
        for k, note in enumerate(n for n in result["ear_notes"] if not n["praise"])
    )


def numbered(remarks: list[Remark]) -> tuple[NumberedRemark, ...]:
    return tuple(NumberedRemark(number=k + 1, remark=r) for k, r in enumerate(remarks))


def draw_rows(
    reading: Reading,
    look: Look,
    *,
    for_teacher: bool,
    remarks: list[Remark],
    first: int = 0,
    count: int = ROWS_NEXT,
) -> Rows:
    """Rows of the page of music from the one numbered `first` on."""
    part = reading.part
    total = len(page_rows(part, width=look.width, has_strips=True))
    marks = ear_notes_of(reading.result, for_teacher=for_teacher)[:SHOWN_FIRST]
    page = page_view(
        part,
        width=look.width,
        overlay=reading.overlay,
        ear_marks=[EarMark(letter=n.letter, tone=n.tone, targets=n.targets) for n in marks],
        flags=[
            Flag(number=n.number, tick=_tick(part, n.remark))
            for n in numbered(remarks)
            if n.remark.bar is not None
        ],
        only=range(first, first + count),
        selection=look.selection,
    )
    return Rows(page=page, next_from=first + count if first + count < total else None)


def tone_of(kind: str) -> str:
    if kind in EARLY_KINDS:
        return "early"
    if kind in LATE_KINDS:
        return "late"
    return "wrong" if kind in WRONG_KINDS else "plain"


def _tick(part: Part, remark: Remark) -> int:
    bar = part.meters.bar(remark.bar or 1)
    return bar.start_tick + ((remark.beat or 1) - 1) * bar.meter.beat_ticks


def _table(reading: Reading, selection: Selection) -> list[dict[str, Any]]:
    """Bar by bar, what the picture shows."""
    part = reading.part
    rows: dict[int, dict[str, Any]] = {}
    for at in reading.rows(selection):
        row = at.row
        if row.target is None:
            continue
        number = int(part.bar_of_note[row.target])
        bar = rows.setdefault(
            number, {"bar": number, "notes": 0, "matched": 0, "wrong": 0, "missed": 0, "deviations": []}
        )
        bar["notes"] += 1
        bar[{"matched": "matched", "wrong_pitch": "wrong", "missed": "missed"}[row.outcome]] += 1
        if row.deviation_ms is not None:
            bar["deviations"].append(row.deviation_ms)
    for bar in rows.values():
        found = bar.pop("deviations")
        bar["mean_ms"] = sum(found) / len(found) if found else None
        bar["most_ms"] = max(found, key=abs) if found else None
    return [rows[number] for number in sorted(rows)]


def _profiles(reading: Reading) -> tuple[NamedProfile, ...]:
    """Those that have places to compare."""
    measures, part = reading.result["measures"], reading.part
    bias = measures["bias_ms"] or 0.0
    names = {
        "tick": (_("In the bar"), lambda tick: syllable(part.meters.first, int(tick)) or f"+{tick}"),
        "hand": (_("By hand"), lambda hand: str(voice_name(hand))),
        "lane": (_("By lane"), str),
        "bar": (_("Bar by bar"), str),
    }
    found = []
    for key, (title, name) in names.items():
        places = [
            PlaceFigures(
                name=name(row["place"]), count=row["count"], median_ms=row["median_ms"] + bias,
                spread_ms=row["spread_ms"],
            )
            for row in measures["profile"][key]
        ]  # fmt: skip
        if len(places) > 1:
            overlay = reading.overlay
            drawn = profile(places, full_ms=overlay.window.full_ms, forgiven_ms=overlay.forgiven_ms)
            found.append(NamedProfile(title=title, profile=drawn))
    return tuple(found)


def _faults(reading: Reading, selection: Selection) -> tuple[Fault, ...]:
    return tuple(fault_of(reading, at) for at in reading.faults(selection))


def fault_of(reading: Reading, at: RowAt) -> Fault:
    """A note with a beat of run-up."""
    part = reading.part
    places = [part.tempos.second_at(at.tick)]
    if at.row.take is not None:
        # Where it was really played, too: after a slip that is somewhere else on the click.
        places.append(reading.played.notes[at.row.take].onset_s)
    beat_s = RUN_UP_BEATS * 60.0 / part.tempos.bpm_at(max(0.0, at.tick))
    last = max(places) + min(LONGEST_FAULT_S, beat_s)
    return Fault(
        note=note_id(at.row),
        first_s=round(max(0.0, min(places) - beat_s), FINE),
        last_s=round(last, FINE),
    )
