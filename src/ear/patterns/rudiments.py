"""The forty standard rudiments, with their stickings.

A rudiment is written in groups of equal strokes: `R` and `L` are the hands, `>` an accent before one, `f` a flam, `d` a drag,
`:` behind it a roll that bounces for as long as the stroke lasts. Behind `@` stands how long each stroke of the group is, in
ticks of 480 to the quarter. A rudiment that is played from either hand is written from both.
"""

import re
from dataclasses import dataclass

from ear.errors import UnknownName
from ear.notes import STANDARD_KIT, Kind, Meter, MeterMap, Note, Ornament, Part, TempoMap
from ear.notes.meter import MeterChange
from ear.patterns.beats import HIT_TICKS
from ear.text import term

STROKE = re.compile(r"(?P<grace>[fd]?)(?P<accent>>?)(?P<hand>[RL])(?P<roll>:?)")
ACCENT, TAP, SOFT = 108, 76, 64
"""Velocities: of an accent, of a stroke beside accents, of one in a rudiment without any."""
GRACES = {"f": Ornament.FLAM, "d": Ornament.DRAG, "": None}
RUDIMENT_BPM, COMPOUND_BPM = 80.0, 90.0
"""In quarters; the second is a whole number of dotted ones."""
SIX_EIGHT = Meter(numerator=6, denominator=8)
TWO_FOUR = Meter(numerator=2, denominator=4)
THREE_FOUR = Meter(numerator=3, denominator=4)


@dataclass(frozen=True, slots=True, kw_only=True)
class Rudiment:
    """One of the forty, as a pattern that fills whole bars."""

    name: str
    strokes: str
    meter: Meter = TWO_FOUR

    def part(self, *, bars: int = 4, bpm: float | None = None) -> Part:
        """Return the rudiment on the snare for so many bars, a last stroke on the beat behind them.

        The last bar is added for it; the sticking stands at each stroke.
        """
        snare = next(lane for lane in STANDARD_KIT.lanes if lane.name == "snare").pitches[0]
        notes: list[Note] = []
        at, end = 0, bars * self.meter.bar_ticks
        while at < end:
            for group in self.strokes.split():
                strokes, _, ticks = group.partition("@")
                for stroke in STROKE.finditer(strokes):
                    if at >= end:
                        break
                    is_accent = bool(stroke["accent"])
                    notes.append(
                        Note(
                            onset_tick=at, length_tick=int(ticks) if stroke["roll"] else HIT_TICKS, pitch=snare,
                            velocity=ACCENT if is_accent else TAP if ">" in self.strokes else SOFT, label=stroke["hand"],
                            ornament=Ornament.ROLL if stroke["roll"] else GRACES[stroke["grace"]],
                        )
                    )  # fmt: skip
                    at += int(ticks)
        first = next(stroke["hand"] for stroke in STROKE.finditer(self.strokes))
        last = TAP if ">" in self.strokes else SOFT
        notes.append(Note(onset_tick=end, length_tick=HIT_TICKS, pitch=snare, velocity=last, label=first))
        return Part.of(
            notes,
            kind=Kind.DRUMS,
            meters=MeterMap([MeterChange(bar=1, meter=self.meter)]),
            tempos=TempoMap.of(bpm or (COMPOUND_BPM if self.meter.is_compound else RUDIMENT_BPM)),
        )


def rudiment(name: str) -> Rudiment:
    """Return a rudiment by its name. Raises UnknownName."""
    known = next((each for each in RUDIMENTS if each.name == name), None)
    if known is None:
        raise UnknownName(kind="rudiment", name=name, known=tuple(each.name for each in RUDIMENTS[:4]))
    return known


RUDIMENTS = tuple(
    Rudiment(name=name, strokes=strokes, meter=meter)
    for name, strokes, meter in (
        # Rolls of single strokes.
        (term("single stroke roll"), "RLRLRLRL@120", TWO_FOUR),
        (term("single stroke four"), "RLR@80 >L@240 RLR@80 >L@240", TWO_FOUR),
        (term("single stroke seven"), "RLRLRL@80 >R@480 LRLRLR@80 >L@480", TWO_FOUR),
        # Rolls of several bounces.
        (term("multiple bounce roll"), "R:L:R:L:@240", TWO_FOUR),
        (term("triple stroke roll"), "RRRLLL@160", TWO_FOUR),
        # Rolls of double strokes.
        (term("double stroke open roll"), "RRLLRRLL@120", TWO_FOUR),
        (term("five stroke roll"), "RRLL@60 >R@240 LLRR@60 >L@240", TWO_FOUR),
        (term("six stroke roll"), ">R@120 LLRR@60 >L@120", TWO_FOUR),
        (term("seven stroke roll"), "RRLLRR@60 >L@120", TWO_FOUR),
        (term("nine stroke roll"), "RRLLRRLL@60 >R@480 LLRRLLRR@60 >L@480", TWO_FOUR),
        (term("ten stroke roll"), "RRLLRRLL@60 >R>L@240", TWO_FOUR),
        (term("eleven stroke roll"), "RRLLRRLLRR@60 >L@360", TWO_FOUR),
        (term("thirteen stroke roll"), "RRLLRRLLRRLL@60 >R@240 LLRRLLRRLLRR@60 >L@240", TWO_FOUR),
        (term("fifteen stroke roll"), "RRLLRRLLRRLLRR@60 >L@120", TWO_FOUR),
        (term("seventeen stroke roll"), "RRLLRRLLRRLLRRLL@60 >R@960 LLRRLLRRLLRRLLRR@60 >L@960", TWO_FOUR),
        # Diddles.
        (term("single paradiddle"), ">RLRR>LRLL@120", TWO_FOUR),
        (term("double paradiddle"), ">RLRLRR>LRLRLL@120", SIX_EIGHT),
        (term("triple paradiddle"), ">RLRLRLRR>LRLRLRLL@120", TWO_FOUR),
        (term("paradiddle-diddle"), ">RLRRLL>RLRRLL@120", SIX_EIGHT),
        # Flams.
        (term("flam"), "fRfLfRfL@240", TWO_FOUR),
        (term("flam accent"), "f>RLRf>LRL@240", SIX_EIGHT),
        (term("flam tap"), "fRRfLL@240", TWO_FOUR),
        (term("flamacue"), "fR>LRL@120 fR@480", TWO_FOUR),
        (term("flam paradiddle"), "f>RLRRf>LRLL@120", TWO_FOUR),
        (term("flammed mill"), "f>RRLRf>LLRL@120", TWO_FOUR),
        (term("flam paradiddle-diddle"), "f>RLRRLLf>LRLLRR@120", SIX_EIGHT),
        (term("pataflafla"), "f>RLRf>L@120", TWO_FOUR),
        (term("swiss triplet"), "f>RRL@160", TWO_FOUR),
        (term("inverted flam tap"), "fRLfLR@120", TWO_FOUR),
        (term("flam drag"), "f>R@240 LL@120 R@240 f>L@240 RR@120 L@240", SIX_EIGHT),
        # Drags.
        (term("drag"), "dRdL@480", TWO_FOUR),
        (term("single drag tap"), "dR>LdL>R@240", TWO_FOUR),
        (term("double drag tap"), "dRdR>LdLdL>R@240", SIX_EIGHT),
        (term("drag and tap"), "dRL@120 >R@240", TWO_FOUR),
        (term("dragadiddle"), "RR@60 LRR@120 LL@60 RLL@120", TWO_FOUR),
        (term("drag paradiddle"), ">R@240 dRLRR@120 >L@240 dLRLL@120", SIX_EIGHT),
        (term("long drag paradiddle"), ">R@240 dR@240 dRLRR@120 >L@240 dL@240 dLRLL@120", TWO_FOUR),
        (term("single ratamacue"), "dRLR@80 >L@240 dLRL@80 >R@240", TWO_FOUR),
        (term("double ratamacue"), "dR@240 dRLR@80 >L@240 dL@240 dLRL@80 >R@240", SIX_EIGHT),
        (term("triple ratamacue"), "dRdR@240 dRLR@80 >L@240 dLdL@240 dLRL@80 >R@240", TWO_FOUR),
    )
)  # fmt: skip
"""By family: rolls, diddles, flams, drags."""
