"""Music as frozen values: notes, parts, takes, meters, tempos, pitches, drum lanes."""

from ear.notes.folding import folded
from ear.notes.form import BarSigns, WrittenForm
from ear.notes.instrument import DRUM_CHANNEL, INSTRUMENTS, Instrument, Kind, kind_on_channel
from ear.notes.kit import FOOT_HAT, STANDARD_KIT, KitMap, Lane, is_one_family
from ear.notes.meter import Bar, Meter, MeterChange, MeterMap, Position, TempoChange, TempoMap
from ear.notes.names import sound_name
from ear.notes.note import HANDS, Hand, Note, Unison, place_of
from ear.notes.ornament import GRACES, Ornament, allows, ornaments_of
from ear.notes.part import ChordMark, OwnLane, Part, Section
from ear.notes.pedal import PedalMark, PedalMove, PedalPoint, pedal_points
from ear.notes.pitch import Spelling, key_alteration, name_in_key, names_of, pitch_name, spell
from ear.notes.signs import Articulation, SignKind, StaffSign
from ear.notes.take import PedalSpan, Take, TakeNote, WheelMove

__all__ = [
    "DRUM_CHANNEL",
    "FOOT_HAT",
    "GRACES",
    "HANDS",
    "INSTRUMENTS",
    "STANDARD_KIT",
    "Articulation",
    "Bar",
    "BarSigns",
    "ChordMark",
    "Hand",
    "Instrument",
    "Kind",
    "KitMap",
    "Lane",
    "Meter",
    "MeterChange",
    "MeterMap",
    "Note",
    "Ornament",
    "OwnLane",
    "Part",
    "PedalMark",
    "PedalMove",
    "PedalPoint",
    "PedalSpan",
    "Position",
    "Section",
    "SignKind",
    "Spelling",
    "StaffSign",
    "Take",
    "TakeNote",
    "TempoChange",
    "TempoMap",
    "Unison",
    "WheelMove",
    "WrittenForm",
    "allows",
    "folded",
    "is_one_family",
    "key_alteration",
    "kind_on_channel",
    "name_in_key",
    "names_of",
    "ornaments_of",
    "pedal_points",
    "pitch_name",
    "place_of",
    "sound_name",
    "spell",
]
