"""Drawn notation: MEI engraved to SVG by verovio, made fit for a page that allows no inline styles."""

import re
import threading
from collections.abc import Collection, Mapping
from enum import StrEnum
from pathlib import Path

import verovio

from ear.labels import LabelKind
from ear.labels.chosen import ON_THE_PAGE
from ear.notation.mei import mei_of
from ear.notes import Part
from ear.reader import ENGLISH, Reader

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
SIGN_IN_TEXT = re.compile(r'<tspan font-family="[^"]*" font-size="(?P<size>\d+)px">(?P<sign>[♭♮♯])</tspan>')
TEXT_SHARE = 405 / 720
"""Of its own font's size, the size of the text that such a sign stands in."""
TEMPO = re.compile(
    r'(?P<text><text x="(?P<x>-?\d+)" y="(?P<y>-?\d+)" font-size="0px">(?:\s*<tspan[^>]*>)*?\s*<tspan font-size="(?P<size>\d+)px">)'
    r"(?P<note>[\uECA3\uECA5\uECA7\uECA9])(?P<dots>\uECB7*)M"
)
HEAD_WIDTH, STEM_LENGTH, TEMPO_GAP = 150, 400, 60
"""Of the note in a tempo, in the engraver's units."""
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
    reader: Reader = ENGLISH,
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
            reader=reader,
            with_tempo=with_tempo,
            as_written=as_written,
            bars=bars,
        )
    )
    svg = toolkit.renderToSVG(1).translate(TEXT_ACCIDENTALS)
    svg = TEMPO.sub(_with_note, SIGN_IN_TEXT.sub(_at_text_size, svg))
    return flat(PLACEHOLDER.sub("", STYLE.sub("", svg)))


def _at_text_size(sign: re.Match[str]) -> str:
    return f'<tspan font-size="{round(int(sign["size"]) * TEXT_SHARE)}px">{sign["sign"]}</tspan>'


def _with_note(tempo: re.Match[str]) -> str:
    """The tempo's text behind a drawn note of its beat: half, quarter, eighth or sixteenth, with its dots."""
    x, y = int(tempo["x"]), int(tempo["y"])
    kind = tempo["note"]
    stem_x = HEAD_WIDTH - 10
    fill = "none" if kind == "\ueca3" else "currentColor"
    shapes = [
        f'<ellipse transform="rotate(-20)" cx="62" cy="-18" rx="74" ry="50" fill="{fill}" stroke-width="24"/>',
        f'<path d="M{stem_x} -85V{-STEM_LENGTH}" fill="none" stroke-width="20"/>',
    ]
    for k in range({"\ueca7": 1, "\ueca9": 2}.get(kind, 0)):
        top = -STEM_LENGTH + 110 * k
        shapes.append(f'<path d="M{stem_x} {top}q20 110 110 160q30 50 0 110q-10 -100 -110 -120z"/>')
    width = HEAD_WIDTH + 110 * (kind > "\ueca5")
    for _ in tempo["dots"]:
        shapes.append(f'<ellipse cx="{width + 50}" cy="-40" rx="22" ry="22"/>')
        width += 100
    text = tempo["text"].replace(f'x="{x}"', f'x="{x + width + TEMPO_GAP}"', 1)
    return f'<g class="tempo-note" transform="translate({x}, {y})">{"".join(shapes)}</g>{text}'


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
