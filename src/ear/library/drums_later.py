"""Drum pieces of grades three to five: rolls and flams, triplet feels, uneven metres, limbs against each other."""

from ear.library.piece import LibraryPiece, drumming, kit
from ear.notes import Meter
from ear.patterns.grooves import THREE_FOUR, GrooveFeel, groove
from ear.patterns.rudiments import rudiment
from ear.text import term
from ear.units import TICKS_PER_QUARTER

QUAVER, TRIPLET, SEMIQUAVER = TICKS_PER_QUARTER // 2, TICKS_PER_QUARTER // 3, TICKS_PER_QUARTER // 4
SNARE, CLOSE = ("snare",), ("crash", "kick")
TWELVE_EIGHT, NINE_EIGHT, FIVE_FOUR = (
    Meter(numerator=n, denominator=d) for n, d in ((12, 8), (9, 8), (5, 4))
)
SEVEN_EIGHT = Meter(numerator=7, denominator=8, groups=(2, 2, 3))

THIRD_GRADE = (
    LibraryPiece(
        name="five-and-rest", title=term("Five and Rest"), grade=3, tags=("rudiments", "hands", "rolls"),
        instructions=term("Five-stroke rolls: two doubles and an accent. Open enough that every stroke can be counted."),
        make=drumming(lambda: rudiment("five stroke roll").part(bars=8), bpm=60),
    ),
    LibraryPiece(
        name="shadow", title=term("Shadow"), grade=3, tags=("rudiments", "hands", "flams"),
        instructions=term("One stick starts high, one low; they fall together. The small note is a shadow, never an echo."),
        make=drumming(lambda: rudiment("flam").part(bars=8), bpm=66),
    ),
    LibraryPiece(
        name="shadow-walk", title=term("Shadow Walk"), grade=3, tags=("rudiments", "hands", "flams"),
        instructions=term("A flam and a tap with the same hand, then the other. Watch the height of the hand that waits."),
        make=drumming(lambda: rudiment("flam tap").part(bars=8), bpm=63),
    ),
    LibraryPiece(
        name="loose-cobbles", title=term("Loose Cobbles"), grade=3, tags=("grooves", "semiquaver kick"),
        instructions=term("The foot falls just before the beat that the hand expects. Practise the foot and the hi-hat alone first."),
        make=drumming(lambda: groove(GrooveFeel.SIXTEENTH_KICK, variation=1, bars=8, fill_bars=(8,), fill_beats=1, fill=3), bpm=76, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="long-shadows", title=term("Long Shadows"), grade=3, tags=("grooves", "half-time"),
        instructions=term("One backbeat to the bar, on three. There is much room: do not fill it, and do not hurry through it."),
        make=drumming(lambda: groove(GrooveFeel.HALF_TIME, variation=2, bars=8, fill_bars=(4, 8), fill_beats=1, fill=2), bpm=72, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="limping-pony", title=term("Limping Pony"), grade=3, tags=("grooves", "shuffle", "triplets"),
        instructions=term("First and third of each triplet: long, short. Sing the middle one without playing it."),
        make=drumming(lambda: groove(GrooveFeel.SHUFFLE, variation=1, bars=8, fill_bars=(4, 8), fill_beats=1, fill=1), bpm=92, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="rowing-home", title=term("Rowing Home"), grade=3, tags=("grooves", "fills", "6/8"),
        instructions=term("Two long pulls to the bar. The backbeat is the second pull; the fill takes its place."),
        make=drumming(lambda: groove(GrooveFeel.SIX_EIGHT, variation=2, bars=8, fill_bars=(4, 8), fill_beats=1, fill=2), bpm=84, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="glass-floor", title=term("Glass Floor"), grade=3, tags=("grooves", "3/4", "ride"),
        instructions=term("A light waltz on the ride. The snare is only felt; if it is heard across the room it is too loud."),
        make=drumming(lambda: groove(GrooveFeel.WALTZ, variation=2, bars=8), bpm=104, ends_on=("ride", "kick")),
    ),
    LibraryPiece(
        name="whisper-between", title=term("Whisper Between"), grade=3, tags=("grooves", "ghost notes"),
        instructions=term("Two ghost notes around the middle of the bar, a finger’s breadth above the skin. The backbeat stays high."),
        make=drumming(lambda: groove(GrooveFeel.SIXTEENTH_KICK, variation=3, bars=8), bpm=76, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="split-sticks", title=term("Split Sticks"), grade=3, tags=("grooves", "paradiddles"),
        instructions=term("A paradiddle shared between hi-hat and snare. Play it first on one surface, until the hands no longer ask."),
        make=kit("""
        hat    X.xx.x.. X.xx.x.. X.xx.x.. X.xx.x..
        snare  .o..X.oo .o..X.oo .o..X.oo .o..X.oo
        kick   X....... X..x.... X....... X..x.x..""", step=SEMIQUAVER, bpm=72, times=4, meter=Meter(numerator=2, denominator=4)),
    ),
    LibraryPiece(
        name="cane-chair", title=term("Cane Chair"), grade=3, tags=("grooves", "bossa", "independence"),
        instructions=term("Feet and right hand rock like a chair. The stick on the rim talks over two bars and never answers itself."),
        make=kit("""
        hat         xxxxxxxx xxxxxxxx
        side stick  x..x..x. ..x..x..
        kick        X..xX..x X..xX..x""", step=QUAVER, bpm=104, times=4, ends_on=("side stick", "kick")),
    ),
    LibraryPiece(
        name="crossword", title=term("Crossword"), grade=3, tags=("hands", "reading", "semiquavers"),
        instructions=term("All the ways to fill a beat with two and three strokes. Say each figure before you play it."),
        make=kit("""
        snare  x...x.x.x...x.x. x.xxx...x.xxx... xxx.x...xxx.x... xx.xx...xx.xx... x..xx...x..xx... xx..x.x.xx..x.x. x.xxxxx.xx.xx... xxxxx.xxxxx.x...
        foot hat  ....x.......x... ....x.......x... ....x.......x... ....x.......x... ....x.......x... ....x.......x... ....x.......x... ....x.......x...""", step=SEMIQUAVER, bpm=66, ends_on=SNARE),
    ),
)  # fmt: skip

FOURTH_GRADE = (
    LibraryPiece(
        name="nine-lives", title=term("Nine Lives"), grade=4, tags=("rudiments", "hands", "rolls"),
        instructions=term("Nine-stroke rolls from either hand. The accent is the goal: the roll leans into it without slowing."),
        make=drumming(lambda: rudiment("nine stroke roll").part(bars=8), bpm=66),
    ),
    LibraryPiece(
        name="creaking-stair", title=term("Creaking Stair"), grade=4, tags=("rudiments", "hands", "drags"),
        instructions=term("Two soft strokes slip in before each note. They belong to the stroke they lead to, not to the beat before."),
        make=drumming(lambda: rudiment("single drag tap").part(bars=8), bpm=66),
    ),
    LibraryPiece(
        name="six-wheels", title=term("Six Wheels"), grade=4, tags=("rudiments", "hands", "paradiddles", "6/8"),
        instructions=term("Double paradiddles: two beats to the bar, the leading hand changes on each."),
        make=drumming(lambda: rudiment("double paradiddle").part(bars=8), bpm=72),
    ),
    LibraryPiece(
        name="lamp-post-swing", title=term("Lamp-post Swing"), grade=4, tags=("grooves", "swing", "independence"),
        instructions=term("The ride swings, the left foot closes on two and four, the right foot is only felt. The left hand answers."),
        make=drumming(lambda: groove(GrooveFeel.SWING, variation=3, bars=8), bpm=112, ends_on=("ride", "kick")),
    ),
    LibraryPiece(
        name="sea-wall", title=term("Sea Wall"), grade=4, tags=("grooves", "bossa", "independence"),
        instructions=term("Four limbs, each with a line of its own. Add them one at a time from the floor upwards."),
        make=drumming(lambda: groove(GrooveFeel.BOSSA, variation=4, bars=8), bpm=112, ends_on=("side stick", "kick")),
    ),
    LibraryPiece(
        name="slow-carousel", title=term("Slow Carousel"), grade=4, tags=("grooves", "shuffle", "half-time", "ghost notes"),
        instructions=term("A shuffle with its backbeat on three and ghost notes inside the triplets. Everything soft is very soft."),
        make=kit("""
        hat    X.xx.xX.xx.x X.xx.xX.xx.x X.xx.xX.xx.x X.xx.xX.xx.x
        snare  .o..o.X.o.o. .o..o.X.o.o. .o..o.X.o.o. .o..o.X.o.o.
        kick   X....x.....x X....x.....x X....x..x..x X....x..x...""", step=TRIPLET, bpm=84, times=2),
    ),
    LibraryPiece(
        name="open-window", title=term("Open Window"), grade=4, tags=("grooves", "open hi-hat", "feet"),
        instructions=term("The hi-hat opens before the beat and the foot shuts it on the beat. One movement, planned early."),
        make=kit("""
        open hat  .......x .......x ...x.... ...x...x .......x .......x ...x...x .......x
        foot hat  ........ x....... x....... ....x... x...x... x....... x....... x...x...
        hat       XxXxXxX. .xXxXxX. .xX.XxXx XxX..xX. .xX..xX. .xXxXxX. .xX..xX. .xX..xX.
        snare     ..X...X. ..X...X. ..X...X. ..X...X. ..X...X. ..X...X. ..X...X. ..X...X.
        kick      X...X... X..xX... X...X.x. X...X... X..xX... X...X..x X..xX... X...X...""", step=QUAVER, bpm=92),
    ),
    LibraryPiece(
        name="harbour-bell", title=term("Harbour Bell"), grade=4, tags=("grooves", "12/8", "fills"),
        instructions=term("Four slow beats of three. Do not let the last quaver of a beat push the next one."),
        make=kit("""
        crash      X........... ............ ............ ............
        hat        .xxXxxXxxXxx XxxXxxXxxXxx XxxXxxXxxXxx XxxXxxXxx...
        snare      ...X.....X.. ...X.....X.o ...X.....X.. ...X........
        high tom   ............ ............ ............ .........Xx.
        floor tom  ............ ............ ............ ...........x
        kick       X.....X..... X.....X.x... X....xX..... X.....X.....""", step=QUAVER, bpm=96, meter=TWELVE_EIGHT, times=2),
    ),
    LibraryPiece(
        name="one-at-a-time", title=term("One at a Time"), grade=4, tags=("grooves", "linear"),
        instructions=term("No two limbs strike together. The line is one voice that wanders over the kit: keep it level."),
        make=kit("""
        hat    X.x..x.. X.x..x.. X.x..x.. X.x..x.. X.xx.x.. X.x..x.x X.xx.x.. X.x..x..
        snare  ....X... ....X..o ....X... ....X.oo ....X..o ....X... ....X.o. ....X.xx
        kick   .x.x..xx .x.x..x. .x.x..xx .x.x.... .x....x. .x.x..x. .x.....x .x.x....""", step=QUAVER, bpm=96, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="wandering-foot", title=term("Wandering Foot"), grade=4, tags=("grooves", "independence", "feet"),
        instructions=term("The hands repeat themselves; the foot moves on by a semiquaver in every bar until it is home again."),
        make=kit("""
        hat    X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x.
        snare  ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X...
        kick   X.......x....... X........x...... X.........x..... X..........x.... X..x....x....... X.x.......x..... X..x......x..... X.......x.x.....""", step=SEMIQUAVER, bpm=72),
    ),
    LibraryPiece(
        name="whole-bar-out", title=term("Whole Bar Out"), grade=4, tags=("grooves", "fills", "toms"),
        instructions=term("Four beats of semiquavers from the snare down to the floor tom. Count the groove through the fill."),
        make=drumming(lambda: groove(GrooveFeel.SIXTEENTH_KICK, variation=2, bars=8, fill_bars=(4, 8), fill_beats=4, fill=1), bpm=80, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="blue-kettle", title=term("Blue Kettle"), grade=4, tags=("grooves", "shuffle", "ghost notes"),
        instructions=term("A full shuffle: the left hand plays ghost notes on the same triplets as the hi-hat. Two heights, two hands."),
        make=drumming(lambda: groove(GrooveFeel.SHUFFLE, variation=3, bars=8, fill_bars=(8,), fill_beats=2, fill=1), bpm=96, ends_on=CLOSE),
    ),
)  # fmt: skip

FIFTH_GRADE = (
    LibraryPiece(
        name="river-stones", title=term("River Stones"), grade=5, tags=("rudiments", "hands", "drags", "triplets"),
        instructions=term("Ratamacues: drag, triplet, accent. The triplet is even although something small came before it."),
        make=drumming(lambda: rudiment("single ratamacue").part(bars=8), bpm=72),
    ),
    LibraryPiece(
        name="double-shadow", title=term("Double Shadow"), grade=5, tags=("rudiments", "hands", "flams", "paradiddles"),
        instructions=term("A flam opens each paradiddle. The doubles are the place to prepare the next flam."),
        make=drumming(lambda: rudiment("flam paradiddle").part(bars=8), bpm=72),
    ),
    LibraryPiece(
        name="copper-drum", title=term("Copper Drum"), grade=5, tags=("rudiments", "hands", "drags"),
        instructions=term("Drags tucked inside a paradiddle. Keep the doubled strokes low and the accents high, at any tempo."),
        make=drumming(lambda: rudiment("drag paradiddle").part(bars=8), bpm=66),
    ),
    LibraryPiece(
        name="seven-league-boots", title=term("Seven-league Boots"), grade=5, tags=("grooves", "7/8"),
        instructions=term("Two, two and three. Tap the groups with the left foot before you add a hand."),
        make=kit("""
        crash  ....... ....... ....... ....... X...... ....... ....... .......
        hat    XxXxXxx XxXxXxx XxXxXxx XxXxX.. .xXxXxx XxXxXxx XxXxXxx XxXx...
        snare  ..X.X.. ..X.X.o ..X.X.. ..X.Xxx ..X.X.. ..X.X.o ..X.X.. ..X.XXX
        kick   X....x. Xx...x. X....x. X...... X....x. Xx...x. X..x.x. X......""", step=QUAVER, bpm=112, meter=SEVEN_EIGHT),
    ),
    LibraryPiece(
        name="fifth-wheel", title=term("Fifth Wheel"), grade=5, tags=("grooves", "5/4"),
        instructions=term("Three beats and two. The second snare shows where the two begin; feel the bar in one piece."),
        make=kit("""
        ride      x.xxx.x.xx x.xxx.x.xx x.xxx.x.xx x.xxx.x.xx
        foot hat  ..x.....x. ..x.....x. ..x.....x. ..x.....x.
        snare     ..X....oX. ..X.o...X. ..X....oX. ..X.o.x.Xx
        kick      X..x..X... X..x..X..x X..x..X... X.....X...""", step=QUAVER, bpm=120, meter=FIVE_FOUR, times=2),
    ),
    LibraryPiece(
        name="spinning-top", title=term("Spinning Top"), grade=5, tags=("grooves", "9/8", "ghost notes"),
        instructions=term("Three beats of three. The accents turn through the bar; the foot holds the centre."),
        make=kit("""
        hat    XxxXxxXxx XxxXxxXxx XxxXxxXxx XxxXxxX..
        snare  .o.X.o..o .o.X.oX.. .o.X.o..o .o.X.o.xX
        kick   X....x... X....x... X....xX.. X....x...""", step=QUAVER, bpm=108, meter=NINE_EIGHT, times=2),
    ),
    LibraryPiece(
        name="three-walk-four", title=term("Three Walk with Four"), grade=5, tags=("three over four", "independence", "grooves"),
        instructions=term("The bell groups the semiquavers in threes while foot and snare stay in four. They meet at the top of every third bar."),
        make=kit("""
        cowbell  X..x..x..x..x..x ..x..x..x..x..x. .x..x..x..x..x.. X..x..x..x..x..x ..x..x..x..x..x. .x..x..x..x..x..
        snare    ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X... ....X.......X...
        kick     X.......X....... X.......X....... X.......X....... X.......X....... X.......X....... X.......X.......""", step=SEMIQUAVER, bpm=76),
    ),
    LibraryPiece(
        name="thread-and-needle", title=term("Thread and Needle"), grade=5, tags=("grooves", "linear", "ghost notes"),
        instructions=term("Semiquavers passed between hands and foot, never two together. The foot is as even as a third hand."),
        make=kit("""
        hat    X..xx.x.X..xx.x. X..xx.x.X..xx.x. X..xx.x.X..xx.x. X..xx.x.........
        snare  .o...X.o.o...X.o .o...X.o.o...X.o .o...X.o.o...X.o .o...X.oXx.xX.xx
        kick   ..x.......x..... ..x.......x..... ..x.......x..... ..x.......x..x..""", step=SEMIQUAVER, bpm=76, times=2),
    ),
    LibraryPiece(
        name="two-clocks", title=term("Two Clocks"), grade=5, tags=("three over two", "independence", "feet"),
        instructions=term("The hands play three where the feet play two. Neither gives way; listen to the rhythm the two make together."),
        make=kit("""
        snare      x.x.x. x.x.x. ...... ...... x.x.x. X.o.X. x.x.x. XxXxXx
        floor tom  ...... ...... x.x.x. X.o.X. ...... ...... ...... ......
        kick       X..... X..x.. X..x.. X..x.. X..x.. X..x.. X..x.. X..x..
        foot hat   ...x.. ...x.. ...x.. ...x.. ...x.. ...x.. ...x.. ...x..""", step=QUAVER, bpm=104, meter=THREE_FOUR),
    ),
    LibraryPiece(
        name="sliding-backbeat", title=term("Sliding Backbeat"), grade=5, tags=("grooves", "displacement"),
        instructions=term("In each second bar the backbeat slides by a quaver. The hi-hat’s accents are your only handrail."),
        make=kit("""
        hat    X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x. X.x.X.x.X.x.X.x.
        snare  ....X..o.o..X... ......X..o....X. ....X..o.o..X... ..X.......X..o.o
        kick   X..x....X.x..... X...x....x..x... X..x....X.x..... X...x..x....x...""", step=SEMIQUAVER, bpm=80, times=2),
    ),
    LibraryPiece(
        name="late-set", title=term("Late Set"), grade=5, tags=("grooves", "swing", "independence", "fills"),
        instructions=term("Snare and kick comment on the ride without pushing it. In the fourth and eighth bars the hands take over."),
        make=drumming(lambda: groove(GrooveFeel.SWING, variation=4, bars=8, fill_bars=(4, 8), fill_beats=4, fill=2), bpm=120, ends_on=CLOSE),
    ),
    LibraryPiece(
        name="iron-bridge", title=term("Iron Bridge"), grade=5, tags=("grooves", "semiquaver kick", "fills", "ghost notes"),
        instructions=term("A busy foot under quiet ghost notes, then a bar in which hands and foot share every beat."),
        make=drumming(lambda: groove(GrooveFeel.SIXTEENTH_KICK, variation=4, bars=8, fill_bars=(8,), fill_beats=4, fill=3), bpm=88, ends_on=CLOSE),
    ),
)  # fmt: skip
