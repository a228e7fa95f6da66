"""The demo school's exercises. All of it was written for Oido.

A line is written bar by bar: `G4 1, A4+C5 ½ | – 1` is pitch (several joined with +) and length
in quarters; – is a rest. A beat is written as lanes of marks on a grid: x a hit, X an accent.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

from ear.editing.pedal import ChangeAt, hold_pedal
from ear.notes import Hand, Kind, MeterMap, Note, Part, TempoMap
from ear.practice.rules import RecordingRules
from ear.units import TICKS_PER_QUARTER

LENGTHS = {"4": 4.0, "3": 3.0, "2": 2.0, "1½": 1.5, "1": 1.0, "½": 0.5, "¼": 0.25}
STEPS = {"C": 0, "D": 2, "E": 4, "F": 5, "G": 7, "A": 9, "B": 11}
SIGNS = {"♯": 1, "♭": -1}
HELD = 0.96
"""Written notes are held nearly to the next."""
DOWNBEAT, BEAT, OFF_BEAT = 92, 78, 70
PITCHES = {"hat": 42, "open": 46, "ride": 51, "snare": 38, "kick": 36, "crash": 49, "tom": 45}
HIT, ACCENT, GHOST = 78, 104, 46
HAT = {"hat", "ride"}


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoPiece:
    title: str
    instructions: str
    part: Part
    level: str
    count_in_bars: int = 1
    rules: RecordingRules = field(default_factory=RecordingRules)


def pitch(name: str) -> int:
    """C4 is 60."""
    letter, sign, octave = name[0], name[1:-1], int(name[-1])
    return 12 * (octave + 1) + STEPS[letter] + SIGNS.get(sign, 0)


def line(text: str, *, bar_quarters: float, hand: Hand | None, softer: int = 0) -> Iterator[Note]:
    for number, bar in enumerate(text.split("|")):
        at = number * bar_quarters
        for item in bar.split(","):
            names, length = item.split()
            quarters = LENGTHS[length]
            into = at - number * bar_quarters
            velocity = DOWNBEAT if into == 0 else (BEAT if into == int(into) else OFF_BEAT)
            for name in names.split("+") if names != "–" else []:
                yield Note(
                    onset_tick=round(at * TICKS_PER_QUARTER),
                    length_tick=round(quarters * HELD * TICKS_PER_QUARTER),
                    pitch=pitch(name),
                    velocity=velocity - softer,
                    hand=hand,
                )
            at += quarters


def beat(bars: Sequence[dict[str, str]], *, step_ticks: int, bar_ticks: int) -> Iterator[Note]:
    for number, lanes in enumerate(bars):
        for lane, marks in lanes.items():
            for k, mark in enumerate(marks.replace(" ", "")):
                if mark == ".":
                    continue
                velocity = {"x": HIT, "X": ACCENT, "o": GHOST}[mark]
                yield Note(
                    onset_tick=number * bar_ticks + k * step_ticks,
                    length_tick=60,
                    pitch=PITCHES[lane],
                    velocity=velocity - (10 if lane in HAT and mark == "x" else 0),
                )


def keyboard(notes: list[Note], *, meter: tuple[int, int], bpm: float, fifths: int) -> Part:
    return Part.of(
        notes, kind=Kind.KEYBOARD, meters=MeterMap.of(*meter), tempos=TempoMap.of(bpm), fifths=fifths
    )


def drums(bars: Sequence[dict[str, str]], *, meter: tuple[int, int], bpm: float, step_ticks: int) -> Part:
    meters = MeterMap.of(*meter)
    notes = beat(bars, step_ticks=step_ticks, bar_ticks=meters.first.bar_ticks)
    return Part.of(notes, kind=Kind.DRUMS, meters=meters, tempos=TempoMap.of(bpm))


LAMP = """
E4 1, D4 1, C4 1, D4 1 | E4 1, G4 1, G4 2 | F4 1, E4 1, D4 1, F4 1 | E4 3, – 1 |
G4 1, F4 1, E4 1, D4 1 | C4 1, E4 1, D4 2 | E4 ½, F4 ½, G4 1, F4 1, D4 1 | C4 4
"""
SLACK_WATER = """
A3+C4+E4 2, A3+C4+E4 2 | A3+C4+F4 2, A3+C4+F4 2 | G3+C4+E4 2, G3+C4+E4 2 | G3+B3+D4 4 |
A3+C4+E4 2, A3+C4+E4 2 | A3+D4+F4 2, A3+D4+F4 2 | G♯3+B3+E4 2, G♯3+B3+E4 2 | A3+C4+E4 4
"""
LOFT = """
D4 ½, E4 ½, F♯4 ½, G4 ½, A4 ½, B4 ½, C♯5 ½, D5 ½ | E5 ½, D5 ½, C♯5 ½, B4 ½, A4 ½, G4 ½, F♯4 ½, E4 ½ |
D4 ½, E4 ½, F♯4 ½, G4 ½, A4 ½, B4 ½, C♯5 ½, D5 ½ | D5 ½, C♯5 ½, B4 ½, A4 ½, G4 ½, F♯4 ½, E4 1
"""
FERRY_RIGHT = """
G4 1, A4 1, B4 1 | C5 2, B4 1 | A4 1½, G4 ½, A4 1 | G4 3 | B4 1, C5 1, D5 1 | E5 2, D5 1 |
C5 ½, B4 ½, A4 1, F♯4 1 | G4 3
"""
FERRY_LEFT = """
G3 1, D4 2 | C3 1, G3 2 | D3 1, C4 2 | G3 1, D4 2 | G3 1, D4 2 | C3 1, G3 2 | D3 1, C4 2 | G3 1, D4 2
"""

GANGPLANK = [
    {"hat": "x.x.x.x.x.x.x.x.", "snare": "....X.......X...", "kick": "X.......X......."},
    {"hat": "x.x.x.x.x.x.x.x.", "snare": "....X.......X...", "kick": "X.......X.x....."},
] * 3 + [
    {"hat": "x.x.x.x.x.x.x.x.", "snare": "....X.......X...", "kick": "X.......X......."},
    {"hat": "x.x.x.x.x.x.....", "snare": "....X.......x.x.", "kick": "X.......X......."},
]
LOOSE_CARGO = [
    {"hat": "x.x.x.x.x.x.x.x.", "snare": "....X.......X...", "kick": "X..x....x.x....."},
    {"hat": "x.x.x.x.x.x.x.x.", "snare": "....X..o....X...", "kick": "X..x..x...x....."},
] * 4
ROWING_SIX = [
    {"ride": "xxxxxx", "snare": "...X..", "kick": "X....."},
    {"ride": "xxxxxx", "snare": "...X..", "kick": "X.x..."},
    {"ride": "xxxxxx", "snare": "...X..", "kick": "X....x"},
    {"ride": "xxxx..", "snare": "...Xxx", "kick": "X....."},
] * 2
ROPE_WALK = [
    {"hat": "x.xx.xx.xx.x", "snare": "...X.....X..", "kick": "X.....X....."},
    {"hat": "x.xx.xx.xx.x", "snare": "...X.....X..", "kick": "X....xX....."},
] * 4


def _pedalled(part: Part) -> Part:
    return hold_pedal(part, first_bar=1, last_bar=len(part.bars), change_at=ChangeAt.BARS).part


def _two_hands() -> list[Note]:
    return [
        *line(FERRY_RIGHT, bar_quarters=3, hand=Hand.RIGHT),
        *line(FERRY_LEFT, bar_quarters=3, hand=Hand.LEFT, softer=16),
    ]


KEYBOARD_PIECES = (
    DemoPiece(
        title="Lamp on the Quay",
        instructions="Five fingers, right hand. Let every note touch the next; breathe in bar 4.",
        part=keyboard(list(line(LAMP, bar_quarters=4, hand=None)), meter=(4, 4), bpm=90, fifths=0),
        level="first-steps",
        count_in_bars=2,
    ),
    DemoPiece(
        title="Slack Water",
        instructions="Chords in the left hand or the right. All three notes land as one; move only what has to move. "
        "The foot changes with every bar: up as the chord sounds, then down again.",
        part=_pedalled(
            keyboard(list(line(SLACK_WATER, bar_quarters=4, hand=None)), meter=(4, 4), bpm=76, fifths=0)
        ),
        level="building",
    ),
    DemoPiece(
        title="Ferry Bell",
        instructions="The tune in the right hand, the bell in the left. The left hand stays soft.",
        part=keyboard(_two_hands(), meter=(3, 4), bpm=92, fifths=1),
        level="building",
        rules=RecordingRules(
            slower_percent=24,
            keys=(0, 2),
            allows_corrected_copies=True,
            questions=("Which bar did you play most often, and what helped?",),
        ),
    ),
    DemoPiece(
        title="Steps to the Loft",
        instructions="D major, even as a staircase. Thumb under after F♯ on the way up.",
        part=keyboard(list(line(LOFT, bar_quarters=4, hand=None)), meter=(4, 4), bpm=84, fifths=2),
        level="secure",
    ),
)
DRUM_PIECES = (
    DemoPiece(
        title="Gangplank",
        instructions="A straight beat. Kick and snare exactly with the click, the hat light above them.",
        part=drums(GANGPLANK, meter=(4, 4), bpm=100, step_ticks=120),
        level="building",
    ),
    DemoPiece(
        title="Loose Cargo",
        instructions="The kick leaves the beat. Keep the hat going as if nothing happened.",
        part=drums(LOOSE_CARGO, meter=(4, 4), bpm=88, step_ticks=120),
        level="building",
        rules=RecordingRules(slower_percent=30, passes=4, allows_corrected_copies=True),
    ),
    DemoPiece(
        title="Rowing Six",
        instructions="Two big strokes in a bar, three small ones in each. Lean on the strokes.",
        part=drums(ROWING_SIX, meter=(6, 8), bpm=96, step_ticks=240),
        level="building",
        count_in_bars=2,
    ),
    DemoPiece(
        title="Rope Walk",
        instructions="A shuffle: long, short, long, short. The short one belongs to the next beat.",
        part=drums(ROPE_WALK, meter=(4, 4), bpm=104, step_ticks=160),
        level="building",
    ),
)
