"""Drawn notation: MEI engraved to SVG by verovio, made fit for a page that allows no inline styles."""

import re
import threading
from collections.abc import Collection, Mapping
from enum import StrEnum
from pathlib import Path

import verovio

from ear.labels import PLAIN, Conventions, LabelKind
from ear.labels.chosen import ON_THE_PAGE
from ear.notation.mei import mei_of
from ear.notes import Part

SCALE = 36
MAX_PAGE_HEIGHT = 60_000
SEED = 7
RESOURCES = str(Path(verovio.__file__).parent / "data")
STYLE = re.compile(r"<style[^>]*>.*?</style>", re.DOTALL)
PLACEHOLDER = re.compile(r'<g [^>]*class="[^"]*placeholder[^"]*"[^>]*>\s*<ellipse[^>]*/>\s*</g>')
INNER_SVG = re.compile(
    r'<svg class="definition-scale"(?P<more>[^>]*?) viewBox="(?P<box>[^"]*)"[^>]*>(?P<inside>.*)</svg>\s*</svg>',
    re.DOTALL,
)
HEAD = re.compile(r'(?P<id>id="n(?P<note>\d+)-\d+") class="note"')
PLACED_HEAD = re.compile(
    r'id="n(?P<note>\d+)-0" class="note[^"]*">\s*<g class="notehead">\s*'
    r"<use[^>]*translate\((?P<x>-?\d+), (?P<y>-?\d+)\)[^>]*/>\s*</g>"
)
TEXT_ACCIDENTALS = {0xEA64: "♭", 0xEA65: "♮", 0xEA66: "♯"}
"""In chord names the engraver writes signs of its own font, which a page does not have (SMuFL, chord symbols)."""
OUTER_BOX = re.compile(r'viewBox="[^"]*"')


class HeadMark(StrEnum):
    """Early stands at the left of its head, late at the right; a wrong note is crossed, a missed one ringed, one
    beside the click stands between two lines."""

    EARLY = "early"
    LATE = "late"
    WRONG = "wrong"
    MISSED = "missed"
    BESIDE = "beside"


MARK_PATHS = {
    HeadMark.EARLY: "M-30 -85v170l-150 -85z",
    HeadMark.LATE: "M250 -85v170l150 -85z",
    HeadMark.WRONG: "M-40 -150l300 300M260 -150l-300 300",
    HeadMark.MISSED: "M108 -190a230 190 0 1 0 1 0z",
    HeadMark.BESIDE: "M8 -170h200M8 170h200",
}
"""From the left of the head, in the engraver's own units: a head is 217 wide and 180 high."""

_own = threading.local()
"""A toolkit for each thread: one is not to be used by two at once."""


def _toolkit() -> verovio.toolkit:
    if not hasattr(_own, "toolkit"):
        verovio.enableLog(verovio.LOG_OFF)
        # Without its resources at first: where they lie, verovio remembers for the thread that imported it
        # alone, and elsewhere draws nothing.
        _own.toolkit = verovio.toolkit(False)
        _own.toolkit.setResourcePath(RESOURCES)
    toolkit: verovio.toolkit = _own.toolkit
    return toolkit


def notation_svg(
    part: Part,
    *,
    width: float,
    labels: Collection[LabelKind] = ON_THE_PAGE,
    conventions: Conventions = PLAIN,
    with_tempo: bool = True,
    as_written: bool = False,
    bars: range | None = None,
    seed: int = SEED,
) -> str:
    """Return the part, or some of its bars, engraved as one SVG, `width` px wide and as high as it needs to be.

    Heads are groups of class “note” with ids n<note>-<piece>. No style stands in it: colour and strokes
    come from the page (`currentColor`). `as_written`: `mei_of`. Another `seed` for each drawing of a page keeps ids apart.
    """
    toolkit = _toolkit()
    toolkit.setOptions(
        {
            "pageWidth": round(width * 100 / SCALE), "pageHeight": MAX_PAGE_HEIGHT, "adjustPageHeight": True,
            "scale": SCALE, "header": "none", "footer": "none", "svgViewBox": True, "svgRemoveXlink": True,
            "pageMarginLeft": 20, "pageMarginRight": 20, "pageMarginTop": 30, "pageMarginBottom": 30,
            "breaks": "auto", "xmlIdSeed": seed, "lyricSize": 3.6, "mnumInterval": 1000,
        }
    )  # fmt: skip
    toolkit.loadData(
        mei_of(
            part,
            labels=labels,
            conventions=conventions,
            with_tempo=with_tempo,
            as_written=as_written,
            bars=bars,
        )
    )
    svg = toolkit.renderToSVG(1).translate(TEXT_ACCIDENTALS)
    return flat(PLACEHOLDER.sub("", STYLE.sub("", svg)))


def with_classes(svg: str, classes: Mapping[int, str]) -> str:
    """Return the drawing with a further class on note heads, by the note's number.

    Notes without one stay as they are.
    """

    def named(head: re.Match[str]) -> str:
        name = classes.get(int(head["note"]))
        return f'{head["id"]} class="note {name}"' if name else head[0]

    return HEAD.sub(named, svg)


def with_marks(svg: str, marks: Mapping[int, HeadMark]) -> str:
    """Return the drawing with a mark at each head, by the note's number.

    Its shape says how the note went, so that nothing depends on colour.
    """

    def marked(head: re.Match[str]) -> str:
        mark = marks.get(int(head["note"]))
        if mark is None:
            return head[0]
        place = f"translate({head['x']}, {head['y']})"
        return (
            f'{head[0]}<path class="head-mark is-{mark.value}" transform="{place}" d="{MARK_PATHS[mark]}"/>'
        )

    return PLACED_HEAD.sub(marked, svg)


def flat(svg: str) -> str:
    """Return the nested drawing as a group of the outer one, scaled as the outer viewBox asks.

    Printers draw nothing of nested drawings.
    """
    inner = INNER_SVG.search(svg)
    if inner is None:
        return svg
    head = OUTER_BOX.sub(f'viewBox="{inner["box"]}"', svg[: inner.start()], count=1)
    return f'{head}<g class="definition-scale" color="currentColor" font-family="Times, serif">{inner["inside"]}</g></svg>'
