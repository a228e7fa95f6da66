"""What a take's report shows, from stored data alone."""

from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from django.utils.translation import gettext as _
from django.utils.translation import pgettext

from ear.drawing.boxes import EarMark, Flag, PageView, Played
from ear.drawing.controls import controls_by_bars, played_controls
from ear.drawing.page import page_rows, page_view
from ear.drawing.profiles import IN_TIME, DrawnProfile, PlaceFigures, profile
from ear.drawing.tempo import TempoPicture, tempo_picture
from ear.drawing.verdicts import RowAt, Selection, place_of_row
from ear.findings.finding import Finding
from ear.findings.kind import FOR_STUDENT, FOR_TEACHER
from ear.findings.rendering import render_finding
from ear.judging.working import describe_rest
from ear.labels.counting import syllable
from ear.notes import Part
from ear.reader import Reader
from ear.words.controls import describe_controls
from ear.words.phrases import describe_bars
from oido.exercises.pages import FINE
from oido.marking.models import Remark
from oido.reports.analysed_take import AnalysedTake
from oido.reports.view_options import ReportView, voice_name

LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
SHOWN_FIRST = 5
ROWS_AT_ONCE = 6
"""Rows that come with the page; it asks for the others by itself, so many at a time."""
ROWS_NEXT = 24
RUN_UP_BEATS = 1.0
LONGEST_FAULT_S = 2.0
"""A missed long note is heard no further than this."""


class Landing(NamedTuple):
    """Where else a slip may as well have been: before target note `note`, on a beat of a bar. `first` names the slip."""

    first: int
    note: int
    bar: int
    beat: int


@dataclass(frozen=True, slots=True, kw_only=True)
class EarNote:
    letter: str
    tone: str
    text: str
    cost: float
    first_bar: int | None
    last_bar: int | None
    targets: tuple[int, ...]
    points_at: str
    """The notes that are its evidence, by their ids on the page."""
    elsewhere: tuple[Landing, ...]
    """Of a slip whose place is a guess, the other places."""


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberedRemark:
    number: int
    remark: Remark


@dataclass(frozen=True, slots=True, kw_only=True)
class PageRows:
    """Some rows of the page of music, and where to go on."""

    page: PageView
    next_from: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedProfile:
    title: str
    profile: DrawnProfile


@dataclass(frozen=True, slots=True, kw_only=True)
class Report:
    part: Part
    rows: PageRows
    look: ReportView
    ear_notes: tuple[EarNote, ...]
    more_notes: tuple[EarNote, ...]
    rest: str
    """What no ear note explains of what was lost; empty where that is next to nothing."""
    praise: tuple[str, ...]
    remarks: tuple[NumberedRemark, ...]
    table: tuple["BarFigures", ...]
    controls: tuple["BarsControls", ...]
    """Where pedal and wheels were used."""
    profiles: tuple[NamedProfile, ...]
    tempo: TempoPicture | None
    """None where the player kept to the click."""
    faults: tuple["Fault", ...]


class BarsControls(NamedTuple):
    """What pedal and wheels did in some bars, in words."""

    bars: str
    used: str


class Fault(NamedTuple):
    """What went wrong, and the seconds of the music in which it is heard with its run-up. A tuple: a page
    is told of many."""

    note: str
    first_s: float
    last_s: float


MIN_REST = 0.1
"""Points that are worth a line."""


def make_report(
    analysed: AnalysedTake,
    *,
    for_teacher: bool,
    reader: Reader,
    remarks: list[Remark],
    look: ReportView,
    rows_at_once: int = ROWS_AT_ONCE,
) -> Report:
    """Return the report for a teacher or a student. Pass only the remarks that the reader may see."""
    to = FOR_TEACHER if for_teacher else FOR_STUDENT
    ear_notes = ear_notes_of(analysed, to, reader)
    return Report(
        part=analysed.part,
        rows=draw_rows(analysed, look, remarks=remarks, count=rows_at_once),
        look=look,
        ear_notes=ear_notes[:SHOWN_FIRST],
        more_notes=ear_notes[SHOWN_FIRST:],
        rest=describe_rest(rest, reader) if (rest := analysed.judgement.rest).cost >= MIN_REST else "",
        praise=tuple(
            render_finding(finding, to, reader, played_on=analysed.take.played_on)
            for finding in analysed.judgement.praise
        ),
        remarks=numbered(remarks),
        table=tuple(_table(analysed, look.selection)),
        controls=describe_bars_controls(analysed, reader),
        profiles=_profiles(analysed),
        tempo=tempo_picture(analysed.facts.bar_tempos),
        faults=_faults(analysed, look.selection),
    )


def describe_bars_controls(analysed: AnalysedTake, reader: Reader) -> tuple[BarsControls, ...]:
    """Return what pedal and wheels did, by stretches of bars in which they did the same."""
    stretches = controls_by_bars(analysed.part, played_controls(analysed.part, analysed.overlay))
    return tuple(
        BarsControls(bars=describe_bars(bars, reader), used=", ".join(describe_controls(used, reader)))
        for bars, used in stretches.items()
    )


def ear_notes_of(analysed: AnalysedTake, to: str, reader: Reader) -> tuple[EarNote, ...]:
    """Return all ear notes but praise, lettered, the most costly first."""
    rows, targets = analysed.facts.rows, analysed.facts.target.notes
    ear_notes = []
    for index, fault in enumerate(analysed.judgement.faults):
        finding = fault.finding
        ear_notes.append(
            EarNote(
                letter=_letter(index),
                tone=finding.kind.hue.value,
                text=render_finding(finding, to, reader, played_on=analysed.take.played_on),
                cost=fault.cost,
                first_bar=finding.bars[0] if finding.bars else None,
                last_bar=finding.bars[1] if finding.bars else None,
                targets=tuple(row for row in finding.rows if row < targets),
                points_at=" ".join(str(rows.place(row)) for row in finding.rows),
                elsewhere=tuple(_elsewhere(analysed, finding)),
            )
        )
    return tuple(ear_notes)


def _elsewhere(analysed: AnalysedTake, finding: Finding) -> Iterator[Landing]:
    """Other places of the slip that a finding tells."""
    part = analysed.part
    for slip in analysed.facts.slips:
        if finding.code == slip.kind and finding.rows[:1] == (slip.row,):
            for note in slip.could_land:
                if note != slip.landed:
                    at = part.meters.position(part.notes[note].onset_tick)
                    yield Landing(slip.could_land[0], note, at.bar, at.beat)


def _letter(k: int) -> str:
    return LETTERS[k % len(LETTERS)]


def _ear_marks(analysed: AnalysedTake) -> list[EarMark]:
    """What is bracketed in the music, by the letters of the list."""
    targets = analysed.facts.target.notes
    return [
        EarMark(
            letter=_letter(k),
            tone=one.finding.kind.hue.value,
            targets=tuple(row for row in one.finding.rows if row < targets),
        )
        for k, one in enumerate(analysed.judgement.faults[:SHOWN_FIRST])
    ]


def numbered(remarks: list[Remark]) -> tuple[NumberedRemark, ...]:
    return tuple(NumberedRemark(number=k + 1, remark=r) for k, r in enumerate(remarks))


def draw_rows(
    analysed: AnalysedTake,
    look: ReportView,
    *,
    remarks: list[Remark],
    first: int = 0,
    count: int = ROWS_NEXT,
) -> PageRows:
    """Return rows of the page of music from the one numbered `first` on."""
    part = analysed.part
    total = len(page_rows(part, width=look.width, has_strips=True))
    page = page_view(
        part,
        width=look.width,
        overlay=analysed.overlay,
        ear_marks=_ear_marks(analysed),
        flags=[
            Flag(number=n.number, tick=_tick(part, n.remark))
            for n in numbered(remarks)
            if n.remark.bar is not None
        ],
        only=range(first, first + count),
        selection=look.selection,
    )
    return PageRows(page=page, next_from=first + count if first + count < total else None)


def _tick(part: Part, remark: Remark) -> int:
    bar = part.meters.bar(part.first_bar if remark.bar is None else remark.bar)
    return bar.start_tick + ((remark.beat or 1) - 1) * bar.meter.beat_ticks


@dataclass(slots=True, kw_only=True)
class BarFigures:
    """What the picture shows of a bar, in numbers."""

    bar: int
    notes: int = 0
    matched: int = 0
    wrong: int = 0
    missed: int = 0
    cost: float = 0.0
    deviations_ms: list[float] = field(default_factory=list)

    def add(self, row: Played) -> None:
        self.notes += 1
        self.matched += row.outcome == "matched"
        self.wrong += row.outcome == "wrong_pitch"
        self.missed += row.outcome == "missed"
        self.cost += row.cost
        if row.judged_ms is not None:
            self.deviations_ms.append(row.judged_ms)

    @property
    def mean_ms(self) -> float | None:
        return sum(self.deviations_ms) / len(self.deviations_ms) if self.deviations_ms else None

    @property
    def most_ms(self) -> float | None:
        return max(self.deviations_ms, key=abs, default=None)


def _table(analysed: AnalysedTake, selection: Selection) -> list[BarFigures]:
    """Bar by bar, what the picture shows."""
    part = analysed.part
    bars: dict[int, BarFigures] = {}
    for at in analysed.rows(selection):
        if at.row.target is not None:
            number = int(part.bar_of_note[at.row.target])
            bars.setdefault(number, BarFigures(bar=number)).add(at.row)
    return [bars[number] for number in sorted(bars)]


def _profiles(analysed: AnalysedTake) -> tuple[NamedProfile, ...]:
    """Those that have places to compare."""
    part, profiles = analysed.part, []
    bias = analysed.facts.figures.bias_ms or 0.0
    names: dict[str, tuple[Any, Callable[[Any], str]]] = {
        "tick": (_("In the bar"), lambda tick: syllable(part.meters.first, int(tick)) or f"+{tick}"),
        "hand": (pgettext("choice", "By hand"), lambda hand: str(voice_name(hand))),
        "lane": (_("By lane"), _),
        "bar": (_("Bar by bar"), str),
    }
    forgiven = analysed.judgement.scores.forgiven_ms
    for key, (title, name) in names.items():
        untimely = _untimely(analysed, key)
        places = [
            PlaceFigures(
                name=name(row.place),
                count=row.count,
                median_ms=row.median_ms + bias - forgiven,
                spread_ms=row.spread_ms,
                state=untimely.get(row.place, IN_TIME),
            )
            for row in getattr(analysed.facts.profile, key)
        ]
        if len(places) > 1:
            drawn = profile(places, full_ms=analysed.overlay.window.full_ms)
            profiles.append(NamedProfile(title=title, profile=drawn))
    return tuple(profiles)


def _untimely(analysed: AnalysedTake, key: str) -> dict[Any, str]:
    """Places most of whose notes lost credit in Timing, each with what for."""
    part = analysed.part
    places: dict[str, Callable[[int], Any]] = {
        "tick": lambda i: int(part.ticks_into_bar[i]),
        "hand": lambda i: part.notes[i].hand,
        "lane": lambda i: part.lane_name(part.notes[i].pitch),
        "bar": lambda i: int(part.bar_of_note[i]),
    }
    of = places[key]
    count: Counter[Any] = Counter()
    why: dict[Any, Counter[str]] = {}
    for row in analysed.overlay.rows:
        if row.target is None or row.take is None:
            continue
        place = of(row.target)
        count[place] += 1
        if row.time is not None:
            why.setdefault(place, Counter())[row.time] += 1
    return {
        place: reasons.most_common(1)[0][0]
        for place, reasons in why.items()
        if sum(reasons.values()) > count[place] / 2
    }


def _faults(analysed: AnalysedTake, selection: Selection) -> tuple[Fault, ...]:
    return tuple(fault_of(analysed, at) for at in analysed.faults(selection))


def fault_of(analysed: AnalysedTake, at: RowAt) -> Fault:
    """Return the bars to play for a note, with a beat of run-up."""
    part = analysed.part
    places = [part.tempos.second_at(at.tick)]
    if at.row.take is not None:
        # Where it was really played, too: after a slip that is somewhere else on the click.
        places.append(analysed.played.notes[at.row.take].onset_s)
    beat_s = RUN_UP_BEATS * 60.0 / part.tempos.bpm_at(max(0.0, at.tick))
    last = max(places) + min(LONGEST_FAULT_S, beat_s)
    return Fault(
        note=str(place_of_row(at.row)),
        first_s=round(max(0.0, min(places) - beat_s), FINE),
        last_s=round(last, FINE),
    )
