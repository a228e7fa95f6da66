"""The demo school's exercises, written as the library's are (`ear.library.piece`). All of it was made for Oido."""

from dataclasses import dataclass, field

from ear.library.piece import keys, kit
from ear.notes import Meter, Part
from ear.practice.rules import RecordingRules
from ear.units import TICKS_PER_QUARTER

QUAVER, TRIPLET, SEMIQUAVER = TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 3, TICKS_PER_QUARTER // 4


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoPiece:
    title: str
    instructions: str
    part: Part
    level: str
    count_in_bars: int = 1
    rules: RecordingRules = field(default_factory=RecordingRules)


LAMP = """
R: [C] E4/4 D C D | E G G/2 | [F] F/4 E [G7] D F | [C] E/2. -/4 | [G7] G/4 F E D | [C] C E [G] D/2 | [C] E/8 F G/4 [G7] F D | [C] C/1
"""
SLACK_WATER = """
R: [Am] A3+C4+E4/2 A3+C4+E4 | [F] A3+C4+F4 A3+C4+F4 | [C] G3+C4+E4 G3+C4+E4 | [G] G3+B3+D4/1 |
R: [Am] A3+C4+E4/2 A3+C4+E4 | [Dm] A3+D4+F4 A3+D4+F4 | [E] G♯3+B3+E4 G♯3+B3+E4 | [Am] A3+C4+E4/1
"""
LOFT = """
R: D4/8 E F♯ G A B C♯5 D | E D C♯ B4 A G F♯ E | D E F♯ G A B C♯5 D | C♯ B4 A G F♯ E D/4
"""
FERRY = """
R: [G] G4/4 A B | [C] C5/2 B4/4 | [D7] A/4. G/8 A/4 | [G] G/2. | B/4 C5 D | [C] E/2 D/4 | [D7] C/8 B4 A/4 F♯ | [G] G/2.
L: G3/4 D4/2 | C3/4 G3/2 | D3/4 C4/2 | G3/4 D4/2 | G3/4 D4/2 | C3/4 G3/2 | D3/4 C4/2 | G3/2.
"""
GANGPLANK = """
hat    X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.....
snare  ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......x.X.
kick   X.......X....... X.......X.x..... X.......X....... X.......X.x..... X.......X....... X.......X.x..... X.......X....... X.......X......."""
LOOSE_CARGO = """
hat    X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x.
snare  ....X.......X... ....X..o....X...
kick   X..x....x.x..... X..x..x...x....."""
ROWING_SIX = """
ride   XxxXxx XxxXxx XxxXxx Xxxx..
snare  ...X.. ...X.. ...X.. ...Xxx
kick   X..... X.x... X....x X....."""
ROPE_WALK = """
hat    X.xX.xX.xX.x X.xX.xX.xX.x
snare  ...X.....X.. ...X.....X..
kick   X.....X..... X....xX....."""

KEYBOARD_PIECES = (
    DemoPiece(
        title="Lamp on the Quay",
        instructions="Five fingers, right hand. Let every note touch the next; breathe in bar 4.",
        part=keys(LAMP, key="C", bpm=90)(),
        level="first-steps",
        count_in_bars=2,
    ),
    DemoPiece(
        title="Slack Water",
        instructions="Chords in the right hand. All three notes land as one; move only what has to move. "
        "The foot changes with every bar: up as the chord sounds, then down again.",
        part=keys(SLACK_WATER, key="A minor", bpm=76, pedal=True)(),
        level="building",
    ),
    DemoPiece(
        title="Ferry Bell",
        instructions="The tune in the right hand, the bell in the left. The left hand stays soft.",
        part=keys(FERRY, key="G", bpm=92, meter="3/4")(),
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
        part=keys(LOFT, key="D", bpm=84)(),
        level="secure",
    ),
)
DRUM_PIECES = (
    DemoPiece(
        title="Gangplank",
        instructions="A straight beat. Kick and snare exactly with the click, the hat light above them.",
        part=kit(GANGPLANK, step=SEMIQUAVER, bpm=100)(),
        level="building",
    ),
    DemoPiece(
        title="Loose Cargo",
        instructions="The kick leaves the beat. Keep the hat going as if nothing happened.",
        part=kit(LOOSE_CARGO, step=SEMIQUAVER, bpm=88, times=4)(),
        level="building",
        rules=RecordingRules(slower_percent=30, passes=4, allows_corrected_copies=True),
    ),
    DemoPiece(
        title="Rowing Six",
        instructions="Two big strokes in a bar, three small ones in each. Lean on the strokes.",
        part=kit(ROWING_SIX, step=QUAVER, bpm=96, times=2, meter=Meter(numerator=6, denominator=8))(),
        level="building",
        count_in_bars=2,
    ),
    DemoPiece(
        title="Rope Walk",
        instructions="A shuffle: long, short, long, short. The short one belongs to the next beat.",
        part=kit(ROPE_WALK, step=TRIPLET, bpm=104, times=4)(),
        level="building",
    ),
)
