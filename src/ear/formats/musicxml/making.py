"""Small makers of elements, which all that writes MusicXML uses."""

from xml.etree.ElementTree import Element, SubElement

from ear.errors import UnknownName
from ear.formats.musicxml import words
from ear.patterns.chords import Chord
from ear.patterns.modes import Tonic


def add(parent: Element, name: str, text: object = None) -> Element:
    """Add a new element as the parent's last child, and return it."""
    element = SubElement(parent, name)
    if text is not None:
        element.text = str(text)
    return element


def move(measure: Element, ticks: int) -> None:
    """Move forward or back in the bar without a note."""
    if ticks:
        add(add(measure, "forward" if ticks > 0 else "backup"), "duration", abs(ticks))


def add_pitched(note: Element, step: int, alteration: int) -> None:
    """Add the pitch of a note by its diatonic step from C of MIDI octave -1."""
    pitch = add(note, "pitch")
    add(pitch, "step", words.STEPS[step % 7])
    if alteration:
        add(pitch, "alter", alteration)
    add(pitch, "octave", step // 7 - 1)


def add_unpitched(note: Element, staff_step: int) -> None:
    """Add the place of a drum stroke on its staff, in steps from the bottom line."""
    step = staff_step + words.STAFF_BOTTOM_STEP
    unpitched = add(note, "unpitched")
    add(unpitched, "display-step", words.STEPS[step % 7])
    add(unpitched, "display-octave", step // 7)


def harmony_of(name: str) -> Element:
    """Return the element for a chord name."""
    harmony = Element("harmony")
    try:
        chord = Chord.named(name)
    except UnknownName:
        function = add(harmony, "root")
        SubElement(function, "root-step", text=name).text = "C"
        SubElement(harmony, "kind", text="").text = "none"
        return harmony
    _add_tonic(harmony, "root", chord.root)
    kind = words.KINDS.get(chord.quality)
    SubElement(harmony, "kind", text=chord.quality).text = kind or "other"
    if chord.bass is not None:
        _add_tonic(harmony, "bass", chord.bass)
    return harmony


def _add_tonic(harmony: Element, kind: str, tonic: Tonic) -> None:
    place = add(harmony, kind)
    add(place, f"{kind}-step", tonic.letter)
    if tonic.alteration:
        add(place, f"{kind}-alter", tonic.alteration)
