"""What the library's pieces are tagged with, the names of metres apart."""

from ear.text import term

TAGS = frozenset({
    # Both instruments.
    term("accents"), term("bossa"), term("dynamics"), term("off-beats"), term("quavers"), term("reading"), term("rests"),
    term("semiquavers"), term("swing"), term("syncopation"), term("triplets"), term("two at once"), term("waltz"),
    # Keyboard.
    term("Alberti bass"), term("arpeggios"), term("both hands"), term("broken chords"), term("cadences"), term("canon"),
    term("chords"), term("chromatic"), term("comping"), term("contrary motion"), term("diminished seventh"),
    term("dotted notes"), term("drone"), term("fingers changing"), term("in octaves"), term("inversions"),
    term("left hand"), term("minor"), term("modes"), term("one position"), term("ornaments"), term("pedal"),
    term("pentatonic"), term("quintuplets"), term("repeated notes"), term("right hand"), term("scales"),
    term("sevenths"), term("skips"), term("staccato"), term("stride"), term("study"), term("thirds"),
    term("twelve bars"), term("two against three"), term("walking bass"),
    # Drums.
    term("coordination"), term("displacement"), term("double strokes"), term("drags"), term("feet"), term("fills"),
    term("flams"), term("ghost notes"), term("grooves"), term("half-time"), term("hands"), term("hi-hat"),
    term("independence"), term("kick"), term("linear"), term("open hi-hat"), term("paradiddles"), term("ride"),
    term("rolls"), term("rudiments"), term("semiquaver kick"), term("shuffle"), term("single strokes"),
    term("three over four"), term("three over two"), term("toms"),
})  # fmt: skip
