"""Keyboard pieces of the first two grades: one position, then hands together, quavers and the first scales."""

from ear.library.piece import LibraryPiece, keys, pattern
from ear.notes import Hand
from ear.patterns.chords import chord_sequence, read_sequence
from ear.patterns.lines import LineShape, five_finger, scale
from ear.patterns.modes import Mode, Tonic
from ear.patterns.two_hands import TwoHands, scale_in_two_hands
from ear.text import term
from ear.units import TICKS_PER_QUARTER

QUAVER = TICKS_PER_QUARTER // 2

FIRST_GRADE = (
    LibraryPiece(
        name="morning-gate", title=term("Morning Gate"), grade=1, key="C", tags=("one position", "right hand"),
        instructions=term("Five fingers, five keys. Each note lasts until the next one begins."),
        make=keys("R: [C] C4/4 D E D | C E G/2 | [F] F/4 E D F | [C] E/1 | E/4 F G F | E/4 G [F] F/2 | [G] D/4 E F D | [C] C/1", key="C", bpm=84),
    ),
    LibraryPiece(
        name="cellar-stairs", title=term("Cellar Stairs"), grade=1, key="C", tags=("one position", "left hand"),
        instructions=term("The left hand goes down one stair at a time. Say the names of the keys before you begin."),
        make=keys("L: [C] G3/4 F E D | C/2 E | [G] D/4 F E D | G/1 | [C] G/4 F E D | [F] C/4 E F/2 | [G] D/4 G F D | [C] C/1", key="C", bpm=80),
    ),
    LibraryPiece(
        name="postcards", title=term("Postcards"), grade=1, key="G", tags=("one position", "right hand", "3/4"),
        instructions=term("Three beats in a bar: lean on the first and let the other two be lighter."),
        make=keys("R: [G] G4/4 A B | [C] C5/2 B4/4 | [D] A/4 B A | [G] G/2. | G/4 B D5 | [C] C5/2 A4/4 | [D] A/4 C5 A4 | [G] G/2.", key="G", bpm=92, meter="3/4"),
    ),
    LibraryPiece(
        name="question-and-answer", title=term("Question and Answer"), grade=1, key="C", tags=("one position", "both hands"),
        instructions=term("The right hand asks, the left hand answers. Have the other hand ready on its keys before its turn."),
        make=keys("""
R: [C] C4/4 E G E | [F] F/4 D [C] E/2 | -/1 | -/1 | [G] G/4 F E D | [C] E/4 F [G] G/2 | -/1 | -/1
L: -/1 | -/1 | [C] C3/4 E G3 E | [G] D/4 G [C] C3/2 | -/1 | -/1 | [G] G3/4 F E D | [C] C/1""", key="C", bpm=84),
    ),
    LibraryPiece(
        name="grey-morning", title=term("Grey Morning"), grade=1, key="D minor", tags=("one position", "right hand", "minor"),
        instructions=term("A quiet tune in D minor. Let the long notes ring for all their beats."),
        make=keys("R: [Dm] D4/4 F A F | [Gm] G/4 E [Dm] F/2 | [A] E/4 G F E | [Dm] D/1 | A4/4 G F A | [Gm] G/4 F [A] E/2 | [Dm] F/4 E D [A] E | [Dm] D/1", key="D minor", bpm=76),
    ),
    LibraryPiece(
        name="garden-swing", title=term("Garden Swing"), grade=1, key="C", tags=("one position", "both hands", "3/4"),
        instructions=term("The left hand holds one note for the whole bar. Press it together with the right hand’s first note."),
        make=keys("""
R: [C] E4/4 F G | E/2 C/4 | [G7] D/4 E F | D/2. | [C] E/4 F G | E/2 C/4 | [G7] F/4 E D | [C] C/2.
L: C3/2. | C | G3/2. | G | C3/2. | C | G3/2. | C3/2.""", key="C", bpm=88, meter="3/4"),
    ),
    LibraryPiece(
        name="three-neighbours", title=term("Three Neighbours"), grade=1, key="C", tags=("one position", "two at once"),
        instructions=term("Two keys go down as one. Look at which fingers change and which stay in the air."),
        make=keys("R: [C] C4+E4/2 D4+F4/2 | E4+G4/1 | [G7] D4+F4/2 D4+G4/2 | [C] E4+G4/1 | C4+E4/2 C4+E4/2 | [F] C4+F4/1 | [G7] D4+F4/2 D4+F4/2 | [C] C4+E4/1", key="C", bpm=76),
    ),
    LibraryPiece(
        name="mind-the-gap", title=term("Mind the Gap"), grade=1, key="C", tags=("one position", "reading", "rests"),
        instructions=term("A rest is a beat that you count and do not play. Lift the finger exactly where the rest begins."),
        make=keys("R: [C] C4/4 - E - | G/4 - E/2 | [F] F/4 - [G] D - | [C] E/4 C -/2 | G4/4 - E - | [F] F/4 - [C] E/2 | [G] D/4 F D - | [C] C/1", key="C", bpm=88),
    ),
    LibraryPiece(
        name="knocking", title=term("Knocking"), grade=1, key="F", tags=("one position", "repeated notes", "right hand"),
        instructions=term("Knock, do not hit: repeated notes from a loose wrist, all equally loud. B is flat."),
        make=keys("R: [F] F4/4 F G G | A/4 A G/2 | [B♭] B♭4/4 B♭ A G | [F] A/2 F/2 | [F] C5/4 C5 A4 A4 | [B♭] B♭4/4 A G/2 | [C] G/4 G A G | [F] F/1", key="F", bpm=92),
    ),
    LibraryPiece(
        name="stepping-stones", title=term("Stepping Stones"), grade=1, key="C", tags=("one position", "skips", "right hand"),
        instructions=term("Skip a key, then step back. The hand stays still while the fingers walk."),
        make=keys("R: [C] C4/4 E D F | E/4 G F/2 | [G] D/4 F E D | D/1 | [C] C/4 E D F | E/4 G E/2 | [G7] F/4 D [C] E [G7] D | [C] C/1", key="C", bpm=84),
    ),
    LibraryPiece(
        name="side-by-side", title=term("Side by Side"), grade=1, key="C", tags=("one position", "both hands", "in octaves"),
        instructions=term("Both hands play the same tune an octave apart. Listen for one sound, not two."),
        make=keys("""
R: [C] C4/4 D E C | [G] D/4 E F/2 | [C] E/4 F G E | [G] D/1 | [C] E/4 D C E | [F] F/4 E [G] D/2 | [C] E/4 G [G7] F D | [C] C/1
L: C3/4 D E C | D/4 E F/2 | E/4 F G E | D/1 | E/4 D C E | F/4 E D/2 | E/4 G F D | C/1""", key="C", bpm=76),
    ),
    LibraryPiece(
        name="puddles", title=term("Puddles"), grade=1, key="A minor", tags=("one position", "staccato", "minor"),
        instructions=term("Short notes with a dot, long ones without. A short note is not a louder note."),
        make=keys("R: [Am] A4'/4 A' C5/2 | [G] B4'/4 B' D5/2 | [Am] C5'/4 B4' A' B' | E5/1 | E5'/4 D' C/2 | [G] D'/4 C' B4/2 | [E] B4'/4 C5' B4' B4' | [Am] A4/1", key="A minor", bpm=88),
    ),
)  # fmt: skip

SECOND_GRADE = (
    LibraryPiece(
        name="c-major-right-hand", title=term("C Major, Right Hand"), grade=2, key="C", tags=("scales", "right hand"),
        instructions=term("The thumb goes under on F. Nobody should hear where."),
        make=pattern(lambda: scale(Tonic.named("C"), Mode.MAJOR, LineShape(value_ticks=QUAVER)), bpm=60),
    ),
    LibraryPiece(
        name="g-major-left-hand", title=term("G Major, Left Hand"), grade=2, key="G", tags=("scales", "left hand"),
        instructions=term("The third finger goes over the thumb on the way up. F is sharp."),
        make=pattern(lambda: scale(Tonic.named("G"), Mode.MAJOR, LineShape(octave=2, value_ticks=QUAVER, hand=Hand.LEFT)), bpm=60),
    ),
    LibraryPiece(
        name="d-major-together", title=term("D Major, Hands Together"), grade=2, key="D", tags=("scales", "both hands"),
        instructions=term("Third fingers meet on the way up and on the way down. Slow enough that it never surprises you."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("D"), Mode.MAJOR, LineShape(), hands=TwoHands.OCTAVES), bpm=72),
    ),
    LibraryPiece(
        name="a-minor-staircase", title=term("A Minor Staircase"), grade=2, key="A minor", tags=("scales", "right hand", "minor"),
        instructions=term("The harmonic minor: a wide step from F to G sharp. Make it as smooth as the narrow ones."),
        make=pattern(lambda: scale(Tonic.named("A"), Mode.HARMONIC_MINOR, LineShape(value_ticks=QUAVER)), bpm=60),
    ),
    LibraryPiece(
        name="market-day", title=term("Market Day"), grade=2, key="G", tags=("quavers", "both hands"),
        instructions=term("The quavers run, the left hand stands still. Do not hurry where it gets lively."),
        make=keys("""
R: [G] G4/8 A B C5 D/4 B4 | [C] C5/8 B4 A B C5/2 | [G] B4/8 C5 D C B4/4 G | [D] A/2. -/4 | [G] G/8 A B C5 D/4 B4 | [C] C5/8 D E D C/2 | [D7] C5/8 B4 A G F♯/4 A | [G] G/1
L: G2+D3/1 | C3+G3 | G2+D3 | D3+A3 | G2+D3 | C3+G3 | D3+A3 | G2+D3""", key="G", bpm=84),
    ),
    LibraryPiece(
        name="lantern-walk", title=term("Lantern Walk"), grade=2, key="F", tags=("3/4", "both hands", "dotted notes"),
        instructions=term("Long notes need patience. Count all three beats before you move on."),
        make=keys("""
R: [F] A4/2 C5/4 | [B♭] B♭4/2. | [C7] G/2 B♭/4 | [F] A/2. | [Dm] F/2 A/4 | [Gm] B♭/2 G/4 | [C7] G/4 E G | [F] F/2.
L: F3/2. | B♭2/2. | C3/2. | F3/2. | D3/2. | G2/2. | C3/2. | F2/2.""", key="F", bpm=96, meter="3/4"),
    ),
    LibraryPiece(
        name="four-friends", title=term("Four Friends"), grade=2, key="C", tags=("chords", "both hands"),
        instructions=term("C, F, G and home. Find the note that two chords share, and keep it under its finger."),
        make=pattern(lambda: chord_sequence(read_sequence("C | F | G7 | C"), rhythm="x-x-"), bpm=72),
    ),
    LibraryPiece(
        name="paper-boats", title=term("Paper Boats"), grade=2, key="D", tags=("quavers", "both hands"),
        instructions=term("The left hand rocks between two keys. Keep it softer than the tune."),
        make=keys("""
R: [D] F♯4/4 A F♯/2 | [G] G/4 B G/2 | [A7] A/8 G F♯ E G/4 E | [D] F♯/2 D | F♯/4 A D5/2 | [G] B4/4 G B/2 | [A7] A/8 G F♯ E C♯/4 E | [D] D/1
L: D3/2 A3 | G2/2 D3 | A2/2 E3 | D3/2 A3 | D3/2 A3 | G2/2 D3 | A2/2 E3 | D3/1""", key="D", bpm=88),
    ),
    LibraryPiece(
        name="left-hand-lullaby", title=term("Left-hand Lullaby"), grade=2, key="G", tags=("left hand", "3/4"),
        instructions=term("The tune is in the left hand alone. Play each slur in one breath."),
        make=keys("L: [G] D3{/4 G A | B/2} A/4 | [C] G{/4 E [D] F♯ | [G] G/2.} | B{/4 A G | [D] A/2} F♯/4 | [C] E{/4 [D] F♯ D | [G] G/2.}", key="G", bpm=80, meter="3/4"),
    ),
    LibraryPiece(
        name="walking-and-waiting", title=term("Walking and Waiting"), grade=2, key="C", tags=("dotted notes", "both hands"),
        instructions=term("Long, short: the dotted note waits a beat and a half. Count one-and-two-and."),
        make=keys("""
R: [C] C4/4. D/8 E/4 G | [F] A/4. G/8 F/2 | [G] G/4. F/8 D/2 | [C] E/1 | [Am] C5/4. B4/8 A/4 E | [F] F/4. G/8 A/2 | [G7] G/4. F/8 D/4 B3 | [C] C4/1
L: C3/1 | F3/1 | G3/1 | C3/1 | A3/1 | F3/1 | G3/1 | C3/1""", key="C", bpm=84),
    ),
    LibraryPiece(
        name="out-and-back", title=term("Out and Back"), grade=2, key="D", tags=("one position", "quavers", "right hand"),
        instructions=term("The first finger always comes home. Each trip goes one key further."),
        make=pattern(
            lambda: five_finger(
                Tonic.named("D"), shape=LineShape(value_ticks=QUAVER),
                degrees=(1, 2, 1, 3, 1, 4, 1, 5, 1, 4, 1, 3, 1, 2, 1, 3, 5, 4, 3, 2, 1, 3, 2, 2, 1),
            ),
            bpm=66,
        ),
    ),
    LibraryPiece(
        name="two-friends", title=term("Two Friends"), grade=2, key="C", tags=("canon", "both hands"),
        instructions=term("The left hand says what the right hand said a bar before. Learn each hand by itself first."),
        make=keys("""
R: [C] C4/4 D E C | E/4 F G/2 | G/4 F E D | E/4 [G7] D [C] C/2 | C/4 D E C | E/4 F G/2 | E/4 [G7] D [C] E [G7] D | [C] C/1
L: -/1 | C3/4 D E C | E/4 F G/2 | G/4 F E D | E/4 D C/2 | C/4 D E C | G3/4 F E G | C3/1""", key="C", bpm=76),
    ),
)  # fmt: skip
