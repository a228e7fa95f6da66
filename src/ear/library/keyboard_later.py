"""Keyboard pieces of grades three to five: accompaniments, uneven metres, hands against each other."""

from ear.library.piece import LibraryPiece, keys, pattern
from ear.notes import Hand
from ear.patterns.accompaniments import CADENCES, ChordFigure, accompaniment
from ear.patterns.chords import Chord, Key, chord_sequence, read_sequence
from ear.patterns.lines import LineShape, arpeggio, intervals, scale
from ear.patterns.modes import Mode, Tonic
from ear.patterns.two_hands import TwoHands, scale_in_two_hands
from ear.text import term
from ear.units import TICKS_PER_QUARTER

QUAVER, SEMIQUAVER = TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 4


def _alberti(low: str, high: str, middle: str) -> str:
    return f"{low}/8 {high} {middle} {high} {low} {high} {middle} {high}"


def _waltz(bass: str, chord: str) -> str:
    return f"{bass}/4 {chord} {chord}"


def _chords(text: str) -> list[list[Chord]]:
    return [[chord for chord in bar if chord] for bar in read_sequence(text)]


THIRD_GRADE = (
    LibraryPiece(
        name="d-major-two-octaves", title=term("D Major, Two Octaves"), grade=3, key="D", tags=("scales", "right hand"),
        instructions=term("Two octaves in quavers. The thumb is under the hand before it is needed."),
        make=pattern(lambda: scale(Tonic.named("D"), Mode.MAJOR, LineShape(octaves=2, value_ticks=QUAVER)), bpm=80),
    ),
    LibraryPiece(
        name="c-major-contrary", title=term("C Major, Outwards and Back"), grade=3, key="C", tags=("scales", "both hands", "contrary motion"),
        instructions=term("The hands mirror each other, finger for finger. Close your eyes once you know it."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("C"), Mode.MAJOR, LineShape(value_ticks=QUAVER), hands=TwoHands.CONTRARY), bpm=72),
    ),
    LibraryPiece(
        name="arpeggio-of-f", title=term("Arpeggio of F"), grade=3, key="F", tags=("arpeggios", "right hand"),
        instructions=term("The hand opens and closes; the elbow travels with it. No accent where the thumb passes."),
        make=pattern(lambda: arpeggio(Tonic.named("F"), (0, 4, 7), fifths=-1, shape=LineShape(octaves=2, value_ticks=QUAVER)), bpm=66),
    ),
    LibraryPiece(
        name="music-box", title=term("Music Box"), grade=3, key="C", tags=("Alberti bass", "both hands"),
        instructions=term("The left hand turns like a small wheel, quiet and even. The tune sings above it."),
        make=keys(f"""
R: [C] E5/2 D/4 C | [F] A4/2. C5/4 | [G7] B4/4 C5 D B4 | [C] C5/2 G4 | [C] E5/2 D/4 C | [F] A4/2 D5/4 C | [G7] B4/4 D5 F D | [C] C5/1
L: {_alberti("C3", "G3", "E3")} | {_alberti("C3", "A3", "F3")} | {_alberti("B2", "G3", "F3")} | {_alberti("C3", "G3", "E3")} | {_alberti("C3", "G3", "E3")} | {_alberti("C3", "A3", "F3")} | {_alberti("B2", "G3", "F3")} | C3+E3+G3/1""", key="C", bpm=92),
    ),
    LibraryPiece(
        name="cartwheels", title=term("Cartwheels"), grade=3, key="G", tags=("6/8", "both hands"),
        instructions=term("Two big beats in a bar, three quavers in each. Feel the turn, not the six."),
        make=keys("""
R: [G] G4/8 B D5 B4/4. | [C] C5/8 B4 C5 E5/4. | [D7] D/8 C A4 F♯/4 A/8 | [G] B/4. G | G/8 B D5 G5/4. | [C] E5/8 D C E/4. | [D7] D/8 C A4 C5/4 A4/8 | [G] G/2.
L: G2/4. D3 | C3/4. G3 | D3/4. A3 | G2/4. D3 | G2/4. D3 | C3/4. G3 | D3/4. A3 | G2/2.""", key="G", bpm=96, meter="6/8"),
    ),
    LibraryPiece(
        name="late-bus", title=term("Late Bus"), grade=3, key="A minor", tags=("syncopation", "both hands", "minor"),
        instructions=term("Short, long, short: the long note begins between the beats. The left hand tells you where the beat is."),
        make=keys("""
R: [Am] A4/8 C5/4 A4/8 E/4 A | [Dm] F/8 A/4 F/8 D/2 | [E7] E/8 G♯/4 B/8 G♯/4 E | [Am] A/2. -/4 | [F] C5/8 A4/4 C5/8 A4/4 F | [G] D5/8 B4/4 D5/8 B4/4 G | [E7] G♯/8 B/4 D5/8 B4/4 G♯ | [Am] A/1
L: A2/2 E3 | D3/2 A3 | E2/2 B2 | A2/2 E3 | F2/2 C3 | G2/2 D3 | E2/2 B2 | A2/1""", key="A minor", bpm=92),
    ),
    LibraryPiece(
        name="turning-chords", title=term("Turning Chords"), grade=3, key="C", tags=("chords", "inversions"),
        instructions=term("Each chord lies as near to the last one as it can. Move only the fingers that have to move."),
        make=pattern(lambda: chord_sequence(read_sequence("C | Am | F | G | Em | F | G7 | C"), rhythm="xxx-"), bpm=80),
    ),
    LibraryPiece(
        name="wet-leaves", title=term("Wet Leaves"), grade=3, key="D minor", tags=("pedal", "broken chords", "minor"),
        instructions=term("The pedal joins what the hand lets go. It comes up with each new bass note and down again just behind it."),
        make=keys("""
R: [Dm] D4/8 F A D5 A4/2 | [B♭] D4/8 F B♭4 D5 B♭4/2 | [Gm] D4/8 G B♭4 D5 B♭4/2 | [A] C♯4/8 E A C♯5 A4/2 | [Dm] D4/8 F A D5 F5/2 | [Gm] D5/8 B♭4 G D B♭4/2 | [A7] C♯4/8 E G A E/4 C♯ | [Dm] D4/1
L: D3/1 | B♭2/1 | G2/1 | A2/1 | D3/1 | G2/1 | A2/1 | D3/1""", key="D minor", bpm=76, pedal=True),
    ),
    LibraryPiece(
        name="creeping", title=term("Creeping"), grade=3, key="C chromatic", tags=("scales", "chromatic", "right hand"),
        instructions=term("Every key, white and black. Thumb and third finger take turns, the second helps where two white keys meet."),
        make=pattern(lambda: scale(Tonic.named("C"), Mode.CHROMATIC, LineShape(value_ticks=QUAVER)), bpm=72),
    ),
    LibraryPiece(
        name="winter-waltz", title=term("Winter Waltz"), grade=3, key="E minor", tags=("3/4", "waltz", "both hands", "minor"),
        instructions=term("The bass leads, the two chords after it step back. The tune floats over all three."),
        make=keys(f"""
R: [Em] B4/2 E5/4 | [Am] C5/2 A4/4 | [D] F♯/4 A D5 | [G] B4/2. | [Am] C5/4 E A4 | [Em] G4/2 E/4 | [B7] F♯/4 A B | [Em] E/2.
L: {_waltz("E3", "G3+B3")} | {_waltz("A2", "E3+C4")} | {_waltz("D3", "F♯3+A3")} | {_waltz("G2", "D3+G3")} | {_waltz("A2", "E3+C4")} | {_waltz("E3", "G3+B3")} | {_waltz("B2", "F♯3+A3")} | E3+B3/2.""", key="E minor", bpm=108, meter="3/4"),
    ),
    LibraryPiece(
        name="high-meadow", title=term("High Meadow"), grade=3, key="G major pentatonic", tags=("pentatonic", "drone", "both hands"),
        instructions=term("Five notes and a drone, like pipes on a hill. Take your time at the ends of the lines."),
        make=keys("""
R: G4/8 A B/4 D5 B4 | A/8 B A/4 G/2 | E/8 G A/4 B A | G/2. -/4 | D5/8 E D/4 B4 D5 | E/8 D B4/4 A/2 | B/8 A G/4 A B/8 A | G/1
L: G2+D3/1 | G2+D3 | G2+D3 | G2+D3 | G2+D3 | G2+D3 | G2+D3 | G2+D3""", key="G major pentatonic", bpm=84),
    ),
    LibraryPiece(
        name="coming-home-in-f", title=term("Coming Home in F"), grade=3, key="F", tags=("chords", "cadences"),
        instructions=term("Four chords that leave home and come back. Hear the last but one pull towards the last."),
        make=pattern(lambda: chord_sequence(read_sequence(CADENCES["perfect"], key=Key(tonic=Tonic.named("F"))), rhythm="x-x-", fifths=-1), bpm=72),
    ),
)  # fmt: skip

FOURTH_GRADE = (
    LibraryPiece(
        name="e-flat-major-octaves", title=term("E♭ Major, Hands in Octaves"), grade=4, key="E♭", tags=("scales", "both hands"),
        instructions=term("Fourth fingers fall on black keys. Two octaves, one hand never ahead of the other."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("E♭"), Mode.MAJOR, LineShape(octave=3, octaves=2, value_ticks=QUAVER), hands=TwoHands.OCTAVES), bpm=92),
    ),
    LibraryPiece(
        name="f-sharp-minor-harmonic", title=term("F♯ Minor, Harmonic"), grade=4, key="F♯ minor", tags=("scales", "right hand", "minor"),
        instructions=term("Long fingers on black keys, the thumb on white ones. Even through the wide step."),
        make=pattern(lambda: scale(Tonic.named("F♯"), Mode.HARMONIC_MINOR, LineShape(octaves=2, octave=3, value_ticks=SEMIQUAVER)), bpm=60),
    ),
    LibraryPiece(
        name="d-major-tenth-apart", title=term("D Major, a Tenth Apart"), grade=4, key="D", tags=("scales", "both hands"),
        instructions=term("The right hand begins on the third degree. Each hand keeps the fingers of its own scale."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("D"), Mode.MAJOR, LineShape(value_ticks=QUAVER), hands=TwoHands.TENTHS), bpm=84),
    ),
    LibraryPiece(
        name="seventh-on-g", title=term("Seventh on G"), grade=4, key="G mixolydian", tags=("arpeggios", "sevenths", "right hand"),
        instructions=term("Four fingers, then the thumb. A seventh chord over two octaves, smooth as a single move."),
        make=pattern(lambda: arpeggio(Tonic.named("G"), (0, 4, 7, 10), fifths=0, shape=LineShape(octave=3, octaves=2, value_ticks=QUAVER)), bpm=84),
    ),
    LibraryPiece(
        name="slow-train", title=term("Slow Train"), grade=4, key="F", tags=("walking bass", "left hand", "twelve bars"),
        instructions=term("Twelve bars of walking bass. Every note is a step of the same length; the last one of a bar leans into the next."),
        make=pattern(lambda: accompaniment(_chords("F7 | B♭7 | F7 | F7 | B♭7 | B♭7 | F7 | F7 | C7 | B♭7 | F7 | F7"), ChordFigure.WALKING, fifths=-1), bpm=96),
    ),
    LibraryPiece(
        name="corner-table", title=term("Corner Table"), grade=4, key="C", tags=("comping", "chords", "both hands"),
        instructions=term("One and the off-beat after two. Short, light, and out of the way of whoever plays the tune."),
        make=pattern(lambda: accompaniment(_chords("Dm7 | G7 | Cmaj7 | Am7 | Dm7 | G7 | Cmaj7 | Cmaj7"), ChordFigure.COMPING, fifths=0), bpm=112),
    ),
    LibraryPiece(
        name="rolling-gate", title=term("Rolling Gate"), grade=4, key="C", tags=("triplets", "both hands"),
        instructions=term("Three notes in the time of two, again and again. The left hand keeps the beat, so that the triplets can roll."),
        make=keys("""
R: [C] G4/8t C5 E C E G | E/4 C | [F] A4/8t C5 F C F A | F/4 C | [G7] G4/8t B D5 B4 D5 F | D/4 B4 | [C] C5/8t E G E C G4 | E4/2
L: C3/2 | G3 | F3/2 | C3 | G3/2 | D3 | C3/2 | C3""", key="C", bpm=84, meter="2/4"),
    ),
    LibraryPiece(
        name="five-corners", title=term("Five Corners"), grade=4, key="D dorian", tags=("5/4", "modes", "both hands"),
        instructions=term("Three and two: the second chord comes on the fourth beat. Count the corners until you no longer have to."),
        make=keys("""
R: [Dm] D4/4 F A G F | [G] B4/4 A G D/2 | [Dm] F/4 G A [C] E/2 | [Dm] D/2. A4/2 | D5/4 C5 A4 G A | [G] B4/4 A G B/2 | [Dm] A4/4 G F [C] E C | [Dm] D/2.+2
L: D3/2. A3/2 | G2/2. D3/2 | D3/2. C3/2 | D3/2. A3/2 | D3/2. A3/2 | G2/2. D3/2 | D3/2. C3/2 | D3/2.+2""", key="D dorian", bpm=108, meter="5/4 3+2"),
    ),
    LibraryPiece(
        name="ripples", title=term("Ripples"), grade=4, key="E minor", tags=("semiquavers", "both hands", "minor"),
        instructions=term("Five fingers in semiquavers, no finger louder than its neighbours. Slow and even first; speed comes by itself."),
        make=keys("""
R: [Em] E4/16 F♯ G A B A G F♯ E F♯ G A B/4 | [Am] A4/16 B C5 B4 A B C5 D E/4 C | [D7] D5/16 C B4 A F♯ A B C5 D/4 A4 | [G] B4/16 C5 D C B4 A G A B/2 | [Em] E4/16 F♯ G A B A G F♯ E F♯ G A B/4 | [C] C5/16 B4 A G E G A B C5/4 E4 | [B7] D♯4/16 F♯ A F♯ B A F♯ D♯ F♯/4 B3 | [Em] E4/1
L: E3/2 B2 | A2/2 E3 | D3/2 F♯3 | G2/2 D3 | E3/2 B2 | C3/2 G2 | B2/2 B2 | E2+B2/1""", key="E minor", bpm=66),
    ),
    LibraryPiece(
        name="four-windows", title=term("Four Windows"), grade=4, key="C", tags=("broken chords", "inversions", "right hand"),
        instructions=term("The same chord through four windows, each an inversion further up. The hand’s shape changes before the notes do."),
        make=keys("R: [C] C4/16 E G C5 E4/16 G C5 E G4/16 C5 E G C5/4 | [Am] A3/16 C4 E A C4/16 E A C5 E4/16 A C5 E A4/4 | [F] F3/16 A C4 F A3/16 C4 F A C4/16 F A C5 F4/4 | [G] G3/16 B D4 G B3/16 D4 G B D4/16 G B D5 G4/4 | [C] C4/1", key="C", bpm=60),
    ),
    LibraryPiece(
        name="hummingbird", title=term("Hummingbird"), grade=4, key="A minor", tags=("repeated notes", "fingers changing", "right hand"),
        instructions=term("Third, second, first finger on one key. The key must come all the way up between the strokes."),
        make=keys("R: [Am] A4(3)/8t A(2) A(1) A(3)/8t A(2) A(1) C5(3)/8t C(2) C(1) E/4 | [Dm] D5(3)/8t D(2) D(1) D(3)/8t D(2) D(1) F(3)/8t F(2) F(1) D/4 | [E] E5(3)/8t E(2) E(1) B4(3)/8t B(2) B(1) G♯(3)/8t G♯(2) G♯(1) B/4 | [Am] A4(3)/8t A(2) A(1) C5(3)/8t C(2) C(1) A4/2", key="A minor", bpm=72),
    ),
    LibraryPiece(
        name="rain-on-tin", title=term("Rain on Tin"), grade=4, key="C minor", tags=("staccato", "off-beats", "both hands", "minor"),
        instructions=term("The left hand falls on the beat, the right hand between. Both are short and dry."),
        make=keys("""
R: [Cm] -/8 E♭4+G4' - E♭4+G4' - E♭4+G4' - E♭4+G4' | [Fm] -/8 F4+A♭4' - F4+A♭4' - F4+A♭4' - F4+A♭4' | [G7] -/8 F4+B4' - F4+B4' - F4+B4' - F4+B4' | [Cm] -/8 E♭4+G4' - E♭4+G4' C5/2 | [A♭] -/8 E♭4+C5' - E♭4+C5' - E♭4+C5' - E♭4+C5' | [Fm] -/8 F4+A♭4' - F4+A♭4' - F4+A♭4' - F4+A♭4' | [G7] -/8 F4+B4' - F4+B4' B4'/4 D5' | [Cm] C5/1
L: C3'/4 G2' C3' G2' | F2' C3' F2' C3' | G2' D3' G2' D3' | C3' G2' C3/2 | A♭2'/4 E♭3' A♭2' E♭3' | F2' C3' F2' C3' | G2' D3' G2' G2' | C3/1""", key="C minor", bpm=96),
    ),
)  # fmt: skip

FIFTH_GRADE = (
    LibraryPiece(
        name="c-sharp-minor-melodic", title=term("C♯ Minor, Melodic"), grade=5, key="C♯ minor", tags=("scales", "both hands", "minor"),
        instructions=term("Up with raised sixth and seventh, down without. The right hand changes its fingers at the top."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("C♯"), Mode.MELODIC_MINOR, LineShape(octave=3, octaves=2, value_ticks=SEMIQUAVER), hands=TwoHands.OCTAVES), bpm=66),
    ),
    LibraryPiece(
        name="double-thirds", title=term("Double Thirds"), grade=5, key="C", tags=("thirds", "right hand"),
        instructions=term("Both notes of each third at once, one third joined to the next. The upper notes lead."),
        make=pattern(lambda: intervals(Tonic.named("C"), Mode.MAJOR, LineShape(value_ticks=QUAVER), size=3, together=True), bpm=66),
    ),
    LibraryPiece(
        name="broken-thirds", title=term("Broken Thirds"), grade=5, key="E♭", tags=("thirds", "left hand"),
        instructions=term("Two steps forward, one step back. The hand rocks a little, the sound does not."),
        make=pattern(lambda: intervals(Tonic.named("E♭"), Mode.MAJOR, LineShape(octave=2, value_ticks=SEMIQUAVER, hand=Hand.LEFT), size=3), bpm=60),
    ),
    LibraryPiece(
        name="night-sky-chromatic", title=term("Night Sky"), grade=5, key="E♭ chromatic", tags=("scales", "chromatic", "both hands", "contrary motion"),
        instructions=term("Chromatic scales that part and meet again. Third fingers strike black keys together all the way."),
        make=pattern(lambda: scale_in_two_hands(Tonic.named("E♭"), Mode.CHROMATIC, LineShape(value_ticks=SEMIQUAVER), hands=TwoHands.CONTRARY), bpm=63),
    ),
    LibraryPiece(
        name="two-against-three", title=term("Two against Three"), grade=5, key="F", tags=("two against three", "both hands"),
        instructions=term("Triplets above, quavers below. Tap it on the lid first: together, right, left, right."),
        make=keys("""
R: [F] A4/8t C5 F C F A | [B♭] F5/8t D B♭4 D5 B♭4 F | [C7] G4/8t B♭ C5 B♭4 C5 E | [F] F5/8t C A4 C5/4 | [Dm] A4/8t D5 F D F A | [Gm] G5/8t D B♭4 D5 B♭4 G | [C7] E4/8t G B♭ G B♭ C5 | [F] A4/2
L: F2/8 C3 A3 C3 | B♭2/8 F3 D3 F3 | C3/8 G3 E3 G3 | F2/8 C3 A2 C3 | D3/8 A3 F3 A3 | G2/8 D3 B♭2 D3 | C3/8 G3 E3 C3 | F2/2""", key="F", bpm=66, meter="2/4"),
    ),
    LibraryPiece(
        name="diminished-ladder", title=term("Diminished Ladder"), grade=5, key="B locrian", tags=("arpeggios", "diminished seventh", "right hand"),
        instructions=term("Four equal steps to the octave. With no home key to lean on, the hand must know where it is."),
        make=pattern(lambda: arpeggio(Tonic.named("B"), (0, 3, 6, 9), fifths=0, shape=LineShape(octave=3, octaves=3, value_ticks=SEMIQUAVER)), bpm=66),
    ),
    LibraryPiece(
        name="seven-doors", title=term("Seven Doors"), grade=5, key="A minor", tags=("7/8", "both hands", "minor"),
        instructions=term("Two, two and three quavers. The left hand opens each group; let the three at the end take its time."),
        make=keys("""
R: [Am] A4/8 C5 B4 D5 C B4 A | [G] B4/8 D5 C E D C B4 | [F] A4/8 C5 B4 A C5/4. | [E7] B4/8 G♯ E G♯ B/4. | [Am] A4/8 C5 E D C B4 A | [Dm] D5/8 F E D A4/4. | [E7] G♯4/8 B D5 C B4 G♯ B | [Am] A4/2+4.
L: A2/4 E3 A3/4. | G2/4 D3 G3/4. | F2/4 C3 F3/4. | E2/4 B2 E3/4. | A2/4 E3 A3/4. | D3/4 A3 D3/4. | E2/4 B2 E3/4. | A2/2+4.""", key="A minor", bpm=100, meter="7/8 2+2+3"),
    ),
    LibraryPiece(
        name="clockwork-sparrow", title=term("Clockwork Sparrow"), grade=5, key="G minor", tags=("semiquavers", "study", "both hands", "minor"),
        instructions=term("The hands pass the semiquavers to each other without a seam. Nobody should hear who is playing."),
        make=keys("""
R: [Gm] G4/16 A B♭ C5 D/4 -/2 | [Cm] E♭5/16 D C B♭4 G/4 -/2 | [D7] F♯4/16 G A C5 D/4 -/2 | [Gm] B♭4/16 A G A B♭/4 -/2 | [E♭] G4/16 B♭ E♭5 D B♭4/4 -/2 | [Cm] C5/16 D E♭ C G4/4 -/2 | [D7] A4/16 B♭ C5 A4 F♯/4 C5/16 B♭4 A F♯ A/4 | [Gm] G4/1
L: -/2 G3/16 F E♭ F D/4 | -/2 C3/16 D E♭ F G/4 | -/2 D3/16 E♭ F♯ E♭ D/4 | -/2 G2/16 A B♭ A G/4 | -/2 E♭3/16 F G F E♭/4 | -/2 C3/16 D E♭ D C/4 | -/2 D3/4 D3 | G2+D3/1""", key="G minor", bpm=76),
    ),
    LibraryPiece(
        name="trill-and-turn", title=term("Trill and Turn"), grade=5, key="D", tags=("ornaments", "both hands"),
        instructions=term("The ornaments belong to the tune: first learn it without them, then let them grow out of it."),
        make=keys("""
R: [D] A4/4 D5 F♯~mordent/2 | [G] D5/4 E B4/2 | [A7] C♯5/4 E A4~turn/2 | [D] F♯4/4 A D5/2 | [G] B4/4 D5 G/2 | [D] F♯5/4 D A4/2 | [A7] E5/2~trill C♯ | [D] D5/1
L: D3/2 A3 | G3/2 D3 | A2/2 E3 | D3/2 F♯3 | G3/2 B2 | D3/2 F♯3 | A2/2 A2 | D3/1""", key="D", bpm=76),
    ),
    LibraryPiece(
        name="night-ferry", title=term("Night Ferry"), grade=5, key="C", tags=("sevenths", "pedal", "both hands"),
        instructions=term("Wide chords under a slow tune. Voice the top; the pedal changes with the bass and never before it."),
        make=keys("""
R: [Cmaj7] E4+G4+B4/2. G4/4 | [Am7] E4+G4+C5/1 | [Dm7] F4+A4+C5/2. A4/4 | [G7] F4+B4/1 | [Em7] G4+B4+D5/2. B4/4 | [Am7] G4+C5+E5/1 | [Dm7] F4+C5+D5/2 [G7] F4+B4+D5/2 | [Cmaj7] E4+B4+C5/1
L: C3+G3/1 | A2+E3/1 | D3+A3/1 | G2+D3/1 | E3+B3/1 | A2+E3/1 | D3+A3/2 G2+D3/2 | C3+G3/1""", key="C", bpm=66, pedal=True),
    ),
    LibraryPiece(
        name="five-in-a-beat", title=term("Five in a Beat"), grade=5, key="A minor", tags=("quintuplets", "right hand", "minor"),
        instructions=term("Five equal notes to a beat, then four, then three. Say a word of five syllables until the fingers believe it."),
        make=keys("R: [Am] A4/16:5 B C5 D E D/16:5 C B4 A B C5/4 A4 | [Dm] D5/16:5 E F E D A4/4 D5/16 C A4 F A/4 | [E7] E4/16:5 G♯ B D5 B4 G♯/16:5 B D5 B4 G♯ E/4 B4 | [Am] C5/16:5 B4 A G♯ B A/8t C5 E A4/2", key="A minor", bpm=60),
    ),
    LibraryPiece(
        name="stride-home", title=term("Stride Home"), grade=5, key="F", tags=("stride", "both hands"),
        instructions=term("The left hand leaps from bass to chord: look ahead to where it lands. The right hand is in no hurry."),
        make=keys("""
R: [F] C5/4 A4/8 C5 D/4 C | [D7] F♯4/4 A/8 C5 D/2 | [Gm] B♭4/4 G/8 B♭ D5/4 B♭4 | [C7] G4/4 B♭/8 C5 E/2 | [F] F5/4 C/8 A4 C5/4 F | [B♭] D5/4 B♭4/8 D5 F/2 | [C7] E5/4 C/8 B♭4 G/4 E | [F] F4/1
L: F2/4 A3+C4 C3 A3+C4 | D3/4 F♯3+C4 A2 F♯3+C4 | G2/4 B♭3+D4 D3 B♭3+D4 | C3/4 B♭3+E4 G2 B♭3+E4 | F2/4 A3+C4 C3 A3+C4 | B♭2/4 B♭3+D4 F3 B♭3+D4 | C3/4 B♭3+E4 G2 B♭3+C4 | F2/4 C3 F2/2""", key="F", bpm=92),
    ),
)  # fmt: skip
