"""Single words of a part as text: note values, and the marks behind a name.

A value is `4`, a quarter, `8.` with a dot, `8t` of a triplet, `16:5` of a quintuplet. Behind a name may stand `(3)` a finger,
`'` staccato, `_` tenuto, `>` accent, `@90` a velocity, `~trill` an ornament, `~grace:B4` one with its own pitch, `"la-"` a word
under the note, `{` and `}` where a slur begins and ends, `!` a fermata.
"""

import re
from dataclasses import dataclass, replace
from fractions import Fraction

from ear.errors import ValueOutOfRange
from ear.notation.values import BASES, RATIOS, TRIPLET, Ratio, Value
from ear.notes import Articulation, Bar, Hand, Note, Ornament
from ear.notes.note import FINGERS, MAX_LABEL_LENGTH
from ear.notes.signs import STACCATO_TIMES
from ear.units import MAX_VELOCITY, MIN_VELOCITY

VALUE = re.compile(r"(\d{1,2})(\.{0,2})(?:(t)|:(\d{1,2})(?::(\d))?)?")
GRACE_NAME = r"[^\s(){}'>@~!_\":]+"
MARKED = re.compile(
    r"(?P<name>[^(){}'>@~!\"]+?)"
    rf"(?P<marks>(?:\(\d\)|'|_|>|@\d{{1,3}}|~[a-z_]+(?::{GRACE_NAME})?|\"[^\"]*\"|\{{|\}}|!)*)"
)
MARK = re.compile(
    r"\((?P<finger>\d)\)|@(?P<velocity>\d{1,3})"
    rf"|~(?P<ornament>[a-z_]+)(?::(?P<grace>{GRACE_NAME}))?|\"(?P<label>[^\"]*)\"|(?P<sign>['_>{{}}!])"
)
QUOTED = re.compile(r'"[^"]*"')
ARTICULATIONS = {"'": Articulation.STACCATO, "_": Articulation.TENUTO, ">": Articulation.ACCENT}
SLUR, SLUR_END, FERMATA = "{", "}", "!"
REST, HOLD, TOGETHER, NEXT_BAR, GOES_ON, AGAIN = "-", "_", "+", "|", "..", "="
HANDS = {"R:": Hand.RIGHT, "L:": Hand.LEFT}
FINEST_SHARE, BEAT_NEAR = 56, Fraction(6, 10_000)
"""Beats are written with three figures: what is so near to a fraction with no greater denominator means it."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Marks:
    """What stands behind a name. A finger, a velocity and a word that are left out stay as they were; an empty word is none."""

    finger: int | None = None
    velocity: int | None = None
    label: str | None = None
    ornament: Ornament | None = None
    grace: str = ""
    """What the small note is called, if that is said."""
    grace_semitones: int | None = None
    """How far it is above the note, once somebody has read its name."""
    articulations: tuple[Articulation, ...] = ()
    begins_slur: bool = False
    ends_slur: bool = False
    has_fermata: bool = False

    def on(self, note: Note) -> Note:
        """Return the note with these marks."""
        is_short, was_short = (
            Articulation.STACCATO in each for each in (self.articulations, note.articulations)
        )
        length = note.length_tick
        if is_short is not was_short:
            length = max(1, length // STACCATO_TIMES) if is_short else length * STACCATO_TIMES
        finger = note.finger if self.finger is None else self.finger
        grace = note.grace_semitones if self.ornament is note.ornament else None
        return replace(
            note, length_tick=length, finger=finger, is_proposed=note.is_proposed and self.finger is None,
            velocity=note.velocity if self.velocity is None else self.velocity, articulations=self.articulations,
            ornament=self.ornament, grace_semitones=grace if self.grace_semitones is None else self.grace_semitones,
            label=note.label if self.label is None else self.label or None,
        )  # fmt: skip


def marks_word(note: Note, *, with_velocity: bool, with_label: bool, grace: str = "") -> str:
    """Return what stands behind a note's name, without slurs and fermatas. `grace` is its small note's name, if it has one."""
    finger = f"({note.finger})" if note.finger is not None and not note.is_proposed else ""
    ornament = f"~{note.ornament.value}{f':{grace}' if grace else ''}" if note.ornament else ""
    label = f'"{note.label}"' if with_label and note.label and '"' not in note.label else ""
    signs = "".join(sign for sign, each in ARTICULATIONS.items() if each in note.articulations)
    return f"{finger}{signs}{f'@{note.velocity}' if with_velocity else ''}{ornament}{label}"


def read_marks(word: str) -> tuple[str, Marks]:
    """Return a name and its marks. Raises ValueOutOfRange for a mark that means nothing."""
    match = MARKED.fullmatch(word)
    if match is None:
        raise ValueOutOfRange("text_mark_unreadable", word=word)
    finger = velocity = ornament = label = None
    grace = ""
    signs: set[str] = set()
    for mark in MARK.finditer(match["marks"]):
        if mark["finger"]:
            finger = int(mark["finger"])
            if not 1 <= finger <= FINGERS:
                raise ValueOutOfRange("finger_out_of_range", fingers=FINGERS, finger=finger)
        elif mark["velocity"]:
            velocity = int(mark["velocity"])
            if not MIN_VELOCITY <= velocity <= MAX_VELOCITY:
                raise ValueOutOfRange("text_mark_unreadable", word=word)
        elif mark["ornament"]:
            if mark["ornament"] not in list(Ornament):
                raise ValueOutOfRange("text_mark_unreadable", word=word)
            ornament, grace = Ornament(mark["ornament"]), mark["grace"] or ""
            if grace and ornament is not Ornament.GRACE:
                raise ValueOutOfRange("text_mark_unreadable", word=word)
        elif mark["label"] is not None:
            label = mark["label"].strip()
            if len(label) > MAX_LABEL_LENGTH:
                raise ValueOutOfRange("note_word_length", label_most=MAX_LABEL_LENGTH)
        else:
            signs.add(mark["sign"])
    return match["name"], Marks(
        finger=finger, velocity=velocity, ornament=ornament, grace=grace, label=label, begins_slur=SLUR in signs, ends_slur=SLUR_END in signs,
        has_fermata=FERMATA in signs,
        articulations=tuple(a for a in Articulation if any(ARTICULATIONS.get(sign) is a for sign in signs)),
    )  # fmt: skip


def parted(text: str, sign: str) -> list[str]:
    """Return what stands between signs, those inside a word in quotes apart."""
    held = QUOTED.findall(text)
    return [QUOTED.sub(lambda _: held.pop(0), each) for each in QUOTED.sub('""', text).split(sign)]


def value_word(value: Value) -> str:
    """Return a value as a word."""
    return f"{value.base}{'.' * value.dots}{_ratio_word(value.ratio)}"


def _ratio_word(ratio: Ratio | None) -> str:
    """Of a quintuplet `:5`; `:5:6` where its five stand in the time of six."""
    if ratio is None:
        return ""
    if ratio == TRIPLET:
        return "t"
    is_usual = next(usual for usual in RATIOS if usual.notes == ratio.notes) == ratio
    return f":{ratio.notes}" if is_usual else f":{ratio.notes}:{ratio.normal}"


def read_value(text: str, word: str) -> Value:
    """Return the value that a text says, within a word. Raises ValueOutOfRange."""
    match = VALUE.fullmatch(text)
    if match is None or int(match[1]) not in BASES:
        raise ValueOutOfRange("note_value_unreadable", word=word)
    ratio = TRIPLET if match[3] else None
    if match[4]:
        normal = match[5] and int(match[5])
        ratio = next((r for r in RATIOS if r.notes == int(match[4]) and normal in (None, r.normal)), None)
        if ratio is None:
            raise ValueOutOfRange("note_value_unreadable", word=word)
    value = Value(base=int(match[1]), dots=len(match[2]), ratio=ratio)
    if value.ticks < 1:
        raise ValueOutOfRange("note_value_unreadable", word=word)
    return value


def length_of(values: tuple[Value, ...]) -> Fraction:
    """Return how long tied values last, in ticks."""
    return sum((value.ticks for value in values), Fraction(0))


def beat_place(text: str, beat_ticks: int) -> Fraction:
    """Return how far into its bar a beat is, in ticks: “2.333” is a third behind the second."""
    beats = Fraction(text) - 1
    tick = round(beats * beat_ticks)
    share = beats.limit_denominator(FINEST_SHARE)
    # Three digits hold the tick; a share that would round to another one is not what was meant.
    is_meant = abs(share - beats) <= BEAT_NEAR and round(share * beat_ticks) == tick
    return share * beat_ticks if is_meant else Fraction(tick)


def next_beat(tick: int, bar: Bar) -> int:
    """Return the tick at which the word behind one stands, of a kit without values."""
    beat = bar.meter.beat_ticks
    return tick + beat - (tick - bar.start_tick) % beat
