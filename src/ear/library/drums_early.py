"""Drum pieces of the first two grades: even strokes, the first grooves, rests and short fills."""

from ear.library.piece import LibraryPiece, drumming, kit
from ear.patterns.grooves import THREE_FOUR, GrooveFeel, groove
from ear.patterns.rudiments import rudiment
from ear.text import term
from ear.units import TICKS_PER_QUARTER

CROTCHET, QUAVER = TICKS_PER_QUARTER, TICKS_PER_QUARTER // 2
SNARE = ("snare",)

FIRST_GRADE = (
    LibraryPiece(
        name="even-steps", title=term("Even Steps"), grade=1, tags=("hands", "reading"),
        instructions=term("Right, left, right, left, from the same height. Close your eyes: can you hear which hand is which?"),
        make=kit("snare  xxxx xxxx x.x. xxxx xxxx xxx. x.x. xxxx", step=CROTCHET, bpm=88, ends_on=SNARE),
    ),
    LibraryPiece(
        name="ask-the-floor", title=term("Ask the Floor"), grade=1, tags=("feet", "grooves"),
        instructions=term("The foot asks, the hand answers. Keep your heel where it is comfortable and let the foot do little."),
        make=kit("""
        snare  .x.x .x.x .x.x .xxx .x.x .x.x .x.x .xxx
        kick   x.x. x.x. x.x. x... x.x. x.x. x.x. x...""", step=CROTCHET, bpm=84),
    ),
    LibraryPiece(
        name="rain-gauge", title=term("Rain Gauge"), grade=1, tags=("hands", "hi-hat"),
        instructions=term("Two strokes to a beat on the hi-hat, the first a little stronger. Count “one and two and”."),
        make=kit("hat  XxXxXxXx XxXxXxX. X.X.XxXx XxXxX.X. XxXxXxXx X.XxX.Xx XxX.XxX. XxXxXxXx", step=QUAVER, bpm=76, ends_on=("hat",)),
    ),
    LibraryPiece(
        name="first-light", title=term("First Light"), grade=1, tags=("grooves", "coordination"),
        instructions=term("Hi-hat on every beat. The foot joins it on one and three, the left hand on two and four."),
        make=kit("""
        hat    xxxx xxxx xxxx xxxx
        snare  .X.X .X.X .X.X .X.X
        kick   X.X. X.X. X.X. X.X.""", step=CROTCHET, bpm=80, times=2),
    ),
    LibraryPiece(
        name="plain-road", title=term("Plain Road"), grade=1, tags=("grooves", "quavers"),
        instructions=term("The hi-hat never stops. Whatever strikes together must sound as one."),
        make=drumming(lambda: groove(GrooveFeel.EIGHTHS, variation=2, bars=8), bpm=76, ends_on=("crash", "kick")),
    ),
    LibraryPiece(
        name="empty-chairs", title=term("Empty Chairs"), grade=1, tags=("hands", "reading", "rests"),
        instructions=term("Every rest is a chair nobody sits on: count it, leave it empty, and come in exactly after it."),
        make=kit("snare  x.xx xx.x .xxx x..x xx.. .x.x x.x. xxxx", step=CROTCHET, bpm=88, ends_on=SNARE),
    ),
    LibraryPiece(
        name="round-the-yard", title=term("Round the Yard"), grade=1, tags=("grooves", "3/4"),
        instructions=term("Three beats: foot, hand, hand. The foot is the heaviest."),
        make=kit("""
        hat    xxx xxx xxx xxx
        snare  .xx .xx .xx ..x
        kick   X.. X.. X.. Xx.""", step=CROTCHET, bpm=92, meter=THREE_FOUR, times=2),
    ),
    LibraryPiece(
        name="four-neighbours", title=term("Four Neighbours"), grade=1, tags=("hands", "toms"),
        instructions=term("Walk round the kit and back. Turn from the waist, so that every stroke lands in the middle of its drum."),
        make=kit("""
        snare      xxxx .... .... .... .... .... xxxx xx..
        high tom   .... xxxx .... .... .... xxxx .... ..x.
        mid tom    .... .... xxxx .... xxxx .... .... ...x
        floor tom  .... .... .... xxxx .... .... .... ....""", step=CROTCHET, bpm=84, ends_on=("floor tom", "kick")),
    ),
    LibraryPiece(
        name="stop-signs", title=term("Stop Signs"), grade=1, tags=("grooves", "rests"),
        instructions=term("Three bars of road, then a stop. Go on counting aloud while nothing sounds."),
        make=kit("""
        hat    x.x.x.x. x.x.x.x. x.x.x.x. ........ x.x.x.x. x.x.x.x. x.x.x.x. ........
        snare  ..X...X. ..X...X. ..X...X. ........ ..X...X. ..X...X. ..X...X. ......X.
        kick   X...X... X...X... X...X... X....... X...X... X...X... X...X... X.......""", step=QUAVER, bpm=84),
    ),
    LibraryPiece(
        name="three-and-a-step", title=term("Three and a Step"), grade=1, tags=("grooves", "fills"),
        instructions=term("In every fourth bar the hands leave the groove for one beat. The crash tells you whether you are home in time."),
        make=kit("""
        crash  ........ ........ ........ ........ X....... ........ ........ ........
        hat    x.x.x.x. x.x.x.x. x.x.x.x. x.x.x... ..x.x.x. x.x.x.x. x.x.x.x. x.x.x...
        snare  ..X...X. ..X...X. ..X...X. ..X...xx ..X...X. ..X...X. ..X...X. ..X...xx
        kick   X...X... X...X... X...X... X...X... X...X... X...X... X...X... X...X...""", step=QUAVER, bpm=80),
    ),
    LibraryPiece(
        name="big-dog-small-dog", title=term("Big Dog, Small Dog"), grade=1, tags=("hands", "dynamics"),
        instructions=term("Loud strokes begin high above the drum, soft ones close to it. The tempo must not notice."),
        make=kit("snare  XXXX oooo XXoo XXoo XoXo XoXo oooo XXXX", step=CROTCHET, bpm=84, ends_on=SNARE),
    ),
    LibraryPiece(
        name="both-doors", title=term("Both Doors"), grade=1, tags=("hands", "two at once"),
        instructions=term("Both hands fall together without a flam: one sound, not two."),
        make=kit("""
        snare      x.x. xxxx x.x. .x.x x.x. xxxx xx.. x.x.
        floor tom  x.x. x.x. x.x. x.x. x.x. x.x. xx.. x.x.""", step=CROTCHET, bpm=80, ends_on=("snare", "floor tom")),
    ),
)  # fmt: skip

SECOND_GRADE = (
    LibraryPiece(
        name="single-file", title=term("Single File"), grade=2, tags=("rudiments", "hands", "single strokes"),
        instructions=term("Single strokes in semiquavers. Let the sticks rebound; the second pair is as strong as the first."),
        make=drumming(lambda: rudiment("single stroke roll").part(bars=8), bpm=66),
    ),
    LibraryPiece(
        name="two-by-two", title=term("Two by Two"), grade=2, tags=("rudiments", "hands", "double strokes"),
        instructions=term("Two strokes with each hand. The second one needs a little finger, or it fades."),
        make=drumming(lambda: rudiment("double stroke open roll").part(bars=8), bpm=60),
    ),
    LibraryPiece(
        name="odd-couple", title=term("Odd Couple"), grade=2, tags=("rudiments", "hands", "paradiddles"),
        instructions=term("A single paradiddle. Listen to the accents alone: they come on every beat, from alternate hands."),
        make=drumming(lambda: rudiment("single paradiddle").part(bars=8), bpm=60),
    ),
    LibraryPiece(
        name="early-train", title=term("Early Train"), grade=2, tags=("grooves", "kick"),
        instructions=term("The foot comes once between the beats, where only the hi-hat is there to meet it."),
        make=drumming(lambda: groove(GrooveFeel.EIGHTHS, variation=3, bars=8), bpm=84, ends_on=("crash", "kick")),
    ),
    LibraryPiece(
        name="one-beat-out", title=term("One Beat Out"), grade=2, tags=("grooves", "fills"),
        instructions=term("A beat of semiquavers ends every fourth bar. Hear it in the groove before you play it."),
        make=drumming(lambda: groove(GrooveFeel.EIGHTHS, variation=2, bars=8, fill_bars=(4, 8), fill_beats=1, fill=1), bpm=80, ends_on=("crash", "kick")),
    ),
    LibraryPiece(
        name="two-beats-out", title=term("Two Beats Out"), grade=2, tags=("grooves", "fills", "toms"),
        instructions=term("Two beats from the snare to the floor tom. The fill is as long as the groove it replaces, not shorter."),
        make=drumming(lambda: groove(GrooveFeel.EIGHTHS, variation=3, bars=8, fill_bars=(4, 8), fill_beats=2, fill=1), bpm=80, ends_on=("crash", "kick")),
    ),
    LibraryPiece(
        name="umbrella", title=term("Umbrella"), grade=2, tags=("grooves", "off-beats"),
        instructions=term("The hi-hat opens between the beats like an umbrella. The foot walks below it on all four."),
        make=kit("""
        hat    .x.x.x.x .x.x.x.x .x.x.x.x .x.x.x.x
        snare  ..X...X. ..X...X. ..X...X. ..X...XX
        kick   X.X.X.X. X.X.X.X. X.X.X.X. X.X.X...""", step=QUAVER, bpm=100, times=2),
    ),
    LibraryPiece(
        name="tapping-shoe", title=term("Tapping Shoe"), grade=2, tags=("feet", "hands", "reading"),
        instructions=term("The left foot closes the hi-hat on two and four and will not be disturbed by what the hands play."),
        make=kit("""
        snare     x.x.x.x. xxx.xxx. x.xxx.xx xxxxx... x.xxx.x. xxx.x.xx .xx..xx. xxxxxxxx
        foot hat  ..x...x. ..x...x. ..x...x. ..x...x. ..x...x. ..x...x. ..x...x. ..x...x.""", step=QUAVER, bpm=80, ends_on=SNARE),
    ),
    LibraryPiece(
        name="lighthouse", title=term("Lighthouse"), grade=2, tags=("hands", "accents"),
        instructions=term("The accent turns like the beam of a lighthouse; the strokes between stay low and even."),
        make=kit("snare  XoooXooo oXoooXoo ooXoooXo oooXoooX XooXooXo oXooXoXo XoXooXoo XXXXoooo", step=QUAVER, bpm=92, ends_on=SNARE),
    ),
    LibraryPiece(
        name="bell-and-board", title=term("Bell and Board"), grade=2, tags=("grooves", "ride"),
        instructions=term("Four bars on the hi-hat, four on the ride. The change must be heard in the colour and not in the time."),
        make=kit("""
        crash  ........ ........ ........ ........ X....... ........ ........ ........
        ride   ........ ........ ........ ........ ..x.x.x. x.x.x.x. x.x.x.x. x.x.x.x.
        hat    xxxxxxxx xxxxxxxx xxxxxxxx xxxxxx.. ........ ........ ........ ........
        snare  ..X...X. ..X...X. ..X...X. ..X...XX ..X...X. ..X...X. ..X...X. ..X...X.
        kick   X...X.x. X...X.x. X...X.x. X...X... X...X.x. X...X.x. X...X.x. X...X.x.""", step=QUAVER, bpm=84),
    ),
    LibraryPiece(
        name="under-the-arches", title=term("Under the Arches"), grade=2, tags=("grooves", "toms"),
        instructions=term("The right hand keeps quavers on the floor tom. Both hands meet on two and four: the snare is louder."),
        make=kit("""
        snare      ..X...X. ..X...X. ..X...X. ..X..xXX
        floor tom  Xoxoxoxo Xoxoxoxo Xoxoxoxo Xoxoxo..
        kick       X...X... X...X... X...X..x X...X...""", step=QUAVER, bpm=88, times=2, leads=("floor tom",)),
    ),
    LibraryPiece(
        name="skating", title=term("Skating"), grade=2, tags=("grooves", "3/4", "quavers"),
        instructions=term("A waltz in quavers. Glide over the bar line; the second and third beats weigh half as much."),
        make=kit("""
        hat    XxXxXx XxXxXx XxXxXx XxXxXx
        snare  ..x.x. ..x.x. ..x.x. ..x.xx
        kick   X..... X..... X....x X.....""", step=QUAVER, bpm=100, meter=THREE_FOUR, times=2),
    ),
)  # fmt: skip
