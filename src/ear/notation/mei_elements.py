"""What MEI calls things, and its smaller elements."""

from collections.abc import Iterator, Sequence
from itertools import groupby
from xml.etree.ElementTree import Element, SubElement

from ear.labels import LabelKind
from ear.notation.graces import WrittenGrace
from ear.notation.written_notes import Tuplet, Written, WrittenNote
from ear.notes import Articulation, Ornament, PedalMove
from ear.notes.pitch import LETTERS

NAMESPACE = "http://www.music-encoding.org/ns/mei"
ID = "{http://www.w3.org/XML/1998/namespace}id"
CLEFS = {"treble": ("G", "2"), "bass": ("F", "4"), "percussion": ("perc", "3")}
HEADS = {"cross": "x", "ring": "x", "diamond": "diamond"}
ACCIDENTALS = {-2: "ff", -1: "f", 0: "n", 1: "s", 2: "x"}
PEDAL_WAYS = {PedalMove.DOWN: ("down",), PedalMove.CHANGE: ("up", "down"), PedalMove.UP: ("up",)}
"""A change is both: behind MEI's "bounce" the engraver draws no line any more."""
TEMPO_NOTES, DOT = {2: "\ueca3", 4: "\ueca5", 8: "\ueca7", 16: "\ueca9"}, "\uecb7"
"""Notes and the dot of a tempo, as the Standard Music Font Layout numbers them; the drawing puts shapes in their place."""
NOTE_ROOM = "M"
"""A letter as wide as the note that is drawn in its place, so that the engraver keeps what is above clear of it."""
PEDAL_GROUP = "100"
"""All lines of the pedal stand at one height: a vertical group of their own, beyond those of the labels."""
SIGNS_OVER = {
    Ornament.TRILL: ("trill", ""), Ornament.MORDENT: ("mordent", "lower"), Ornament.UPPER_MORDENT: ("mordent", "upper"),
    Ornament.TURN: ("turn", "upper"),
}  # fmt: skip
JUMPS = {
    "segno": ("segno", "", False), "coda": ("coda", "", False), "tocoda": ("coda", "To Coda", True), "fine": ("fine", "Fine", True),
    "dacapo": ("daCapo", "D.C.", True), "dalsegno": ("dalSegno", "D.S.", True),
}  # fmt: skip
"""What it does, its words (none for a sign of its own), and whether it stands at the bar's end."""
ARTICULATIONS = {Articulation.STACCATO: "stacc", Articulation.TENUTO: "ten", Articulation.ACCENT: "acc"}
VERSES = (
    LabelKind.NAMES, LabelKind.KEYS, LabelKind.WORDS, LabelKind.COUNT, LabelKind.MOVES,
)  # fmt: skip
"""Labels that stand under the notes, a line for each kind."""


def nested(voice: Sequence[Written]) -> Iterator[tuple[Tuplet | None, list[Written]]]:
    """Return the voice in stretches: those of one tuplet with beams in it, and those in whose beams tuplets are, with None."""
    by_group: dict[int, set[Tuplet | None]] = {}
    for written in voice:
        by_group.setdefault(written.group, set()).add(written.tuplet)

    def is_outside(written: Written) -> bool:
        """Does its tuplet hold beams, and not the other way round?"""
        return written.tuplet is not None and (not written.group or len(by_group[written.group]) == 1)

    for tuplet, inside in groupby(voice, key=lambda w: w.tuplet if is_outside(w) else None):
        yield tuplet, list(inside)


def tuplet_in(parent: Element, tuplet: Tuplet) -> Element:
    """Add a tuplet to an element, and return it."""
    notes, normal = tuplet.ratio
    shown = {"bracket.visible": "true" if tuplet.has_bracket else "false"}
    return SubElement(parent, "tuplet", {"num": f"{notes}", "numbase": f"{normal}", **shown})


def spelled(sign: WrittenNote | WrittenGrace) -> dict[str, str]:
    """Return name, octave and accidental of something written on a staff of pitches."""
    octave = sign.step // 7 - 1
    attributes = {"pname": LETTERS[sign.step % 7].lower(), "oct": str(octave)}
    if isinstance(sign, WrittenNote) and sign.octaves:
        attributes |= {"oct": str(octave - sign.octaves), "oct.ges": str(octave)}
    if sign.shows_accidental and not (isinstance(sign, WrittenNote) and sign.is_cautionary):
        attributes["accid"] = ACCIDENTALS[sign.alteration]
    elif sign.alteration:
        attributes["accid.ges"] = ACCIDENTALS[sign.alteration]
    return attributes


def key_signature(fifths: int) -> str:
    """Return a key signature as the format writes it, such as 2s or 3f."""
    return f"{abs(fifths)}{'s' if fifths > 0 else 'f'}" if fifths else "0"
