"""Data that pages give their scripts, and answers that scripts get: one shape for both sides.

`./oido types` writes `src/oido/page_data.d.ts` from it, and `./oido check` looks whether that is still true. Names are as
scripts have them.
"""

from typing import NotRequired, TypedDict

PlainNote = tuple[float, float, int, int]
"""onset_s, length_s, pitch, velocity; seconds from bar 1"""
ControlChange = tuple[float, int, int, int]
"""second, status, data1, data2"""


class PlainBar(TypedDict):
    """A bar in seconds from bar 1, and in ticks."""

    number: int
    start: float
    end: float
    start_tick: int
    end_tick: int
    beats: list[float]


class TypingLayout(TypedDict):
    """How a keyboard's layout moves with its home note."""

    rows: list[tuple[list[str], int]]
    """Key places, and how many semitones they lie off the scale."""
    scale: list[int]
    home: int


class Pad(TypedDict):
    name: str
    pitch: int


class Backing(TypedDict):
    notes: list[PlainNote]
    level: float
    hasLanes: bool
    whileRecording: bool


class ClickRules(TypedDict):
    """How a recording's click sounds; level 0 to 1."""

    on: bool
    sound: str
    level: float
    divides: int


class RecordingData(TypedDict):
    """What a recorder needs of the recording rules."""

    click: ClickRules
    backing: Backing | None


class Playing(TypedDict):
    """What a player needs of a part, and of a take over it."""

    hasLanes: bool
    bpm: float
    bars: list[PlainBar]
    target: list[PlainNote]
    voices: list[str]
    """Of each note of the target: its hand or lane."""
    cues: list[PlainNote]
    pedal: list[tuple[float, int]]
    """The part's pedal: second, controller value."""
    fifths: int
    layout: dict[str, int]
    """Key places of the computer keyboard and what they play."""
    typing: TypingLayout | None
    """None for pads."""
    pads: list[Pad]
    take: list[PlainNote] | None
    controls: NotRequired[list[ControlChange]]
    """Pedal, bend, modulation and pressure of the take."""
    passOf: NotRequired[list[int]]
    """Of each note of a take in several passes: its pass, from 0."""
    corrected: NotRequired[list[PlainNote] | None]
    """The take's corrected copy."""
    backing: NotRequired[Backing | None]


class KeysReach(TypedDict):
    """What typing keys reach of the part, and a layout of its own for two hands."""

    notes: int
    as_they_lie: int
    from_best: int
    best: int
    by_two_hands: int
    layout: dict[str, int]
    easier: str


class ByEarRules(TypedDict):
    url: str
    left: int | None
    """How often it may be heard yet; None for as often as wanted."""


class ListenFirst(TypedDict):
    url: str


class StandData(Playing):
    """What the Stand needs of its exercise besides."""

    click: ClickRules
    reach: KeysReach | None
    """None for pads."""
    compass: tuple[int, int]
    """The lowest and the highest pitch that a player needs."""
    byEar: ByEarRules | None
    """Of a part that is played by ear."""
    listenFirst: ListenFirst | None
    """Of a part that is to be heard before it is recorded."""
    beatValue: str
    """What a tempo counts, as the reader calls it."""
    part: int
    allowedNotes: list[tuple[float, list[int]]]
    """Of what is improvised: from which second on which pitch classes are allowed, or lanes' numbers; empty where all are."""
    fingers: list[int | None]
    """Of each note of the target."""
    countInBars: int
    middleC: int
    ownFifths: int
    keyText: str
    allowed: tuple[float, float]
    range: tuple[int, int]
    passes: int
    countsAfter: int
    """The bar from whose end on a recording is a take, however it ends."""
    lanes: dict[int, str]
    laneNames: dict[int, str]
    """In the language of the page; lanes are told apart by `lanes`."""
    """Of a kit: the lane of each number."""


class LoopAnswer(TypedDict):
    """How a loop that was practised went."""

    points: int
    isClean: bool
    earNote: str
    needed: int
    chart: NotRequired[str]
    inTempo: NotRequired[bool]
    row: NotRequired[int]
    """Clean loops in a row, where it is of a rung."""
    neededLoops: NotRequired[int]
    isPassed: NotRequired[bool]
    ladder: NotRequired[str]


class PaceAnswer(TypedDict):
    """How bars went at the student's own pace."""

    isComplete: bool
    isClean: bool
    words: str
    loop: tuple[int, int] | None
    """Bars that are worth practising next."""
    isPassed: NotRequired[bool]
    ladder: NotRequired[str]


class LatencyAnswer(TypedDict):
    """What taps along with a click say of the latency."""

    offsetMs: float
    spreadMs: float
    taps: int
    leftOut: int
    isSteady: bool
