"""Standard MIDI Files, out: parts and takes."""

import io
from collections.abc import Iterable, Sequence

from ear.formats.events import RawEvent, end_held_keys
from ear.formats.multi_part_import import NO_HANDS
from ear.formats.quick_mido import mido
from ear.formats.smf import KEY_NAMES
from ear.formats.sounding import SUSTAIN_PEDAL
from ear.notes import Hand, Note, Part, place_of
from ear.units import TICKS_PER_QUARTER

TAKE_TICKS_PER_QUARTER = 960
NOTE_OFF_VELOCITY = 64
MESSAGE_BYTES = {0xC0: 2, 0xD0: 2}
"""Program changes and channel pressure have one data byte, all other channel messages two (MIDI 1.0)."""


def write_part(part: Part, *, title: str = "") -> bytes:
    """Return a part as a file of type 1: one track for the whole, named after the piece, then one track for
    each hand.

    A key that is struck again while it is held goes on in another track of the same hand: within one track
    nothing would say which of its strokes ends when. Sections are markers, their keys key signatures, words lyrics; the first track lasts as many bars as
    the part. The pedal is controller 64.
    Cues, fingers and chord names have no place in the format.
    """
    file = mido.MidiFile(type=1, ticks_per_beat=TICKS_PER_QUARTER, charset="utf-8")
    conductor: list[tuple[int, mido.MetaMessage]] = [
        (0, mido.MetaMessage("key_signature", key=KEY_NAMES[part.fifths + 7]))
    ]
    if title:
        conductor.insert(0, (0, mido.MetaMessage("track_name", name=title)))
    for section in part.sections:
        start = part.meters.bar(section.bar).start_tick
        conductor.append((start, mido.MetaMessage("marker", text=section.name)))
        if section.fifths is not None:
            conductor.append((start, mido.MetaMessage("key_signature", key=KEY_NAMES[section.fifths + 7])))
    for meter_change in part.meters.changes:
        meter = meter_change.meter
        conductor.append((
            part.meters.bar(meter_change.bar).start_tick,
            mido.MetaMessage("time_signature", numerator=meter.numerator, denominator=meter.denominator),
        ))  # fmt: skip
    conductor += [
        (c.tick, mido.MetaMessage("set_tempo", tempo=round(60e6 / c.bpm))) for c in part.tempos.changes
    ]
    file.tracks.append(_track(conductor, end=part.bars[-1].end_tick))
    channel = part.instrument.channel
    struck = [*part.notes, *(second for second in (n.second() for n in part.notes) if second is not None)]
    struck.sort(key=place_of)
    hands = sorted({n.hand for n in struck}, key=lambda h: (h is None, h != Hand.RIGHT))
    first_hand = hands[0] if hands else None
    for hand in hands:
        layers = _layers(note for note in struck if note.hand == hand)
        for number, layer in enumerate(layers):
            messages: list[tuple[int, mido.Message | mido.MetaMessage]] = []
            if hand is not None or len(layers) > 1:
                name = NO_HANDS if hand is None else f"{hand.value} hand"
                messages.append((0, mido.MetaMessage("track_name", name=name)))
            for note in layer:
                if note.label is not None:
                    messages.append((note.onset_tick, mido.MetaMessage("lyrics", text=note.label)))
                messages += _note_messages(note.onset_tick, note.end_tick, note.pitch, note.velocity, channel)
            if hand is first_hand and not number:
                # One foot for both hands: all tracks share the channel.
                for mark in part.pedal:
                    messages += _pedal_messages(mark.start_tick, mark.end_tick, channel)
            file.tracks.append(_track(messages))
    return _saved(file)


def _layers(notes: Iterable[Note]) -> list[list[Note]]:
    """Notes in order of onset in as few rows as can be in which no key is struck while it is held."""
    layers: list[list[Note]] = []
    held: list[dict[int, int]] = []
    """For each row where each pitch last ends."""
    for note in notes:
        k = next((k for k, ends in enumerate(held) if ends.get(note.pitch, 0) <= note.onset_tick), len(held))
        if k == len(held):
            layers.append([])
            held.append({})
        layers[k].append(note)
        held[k][note.pitch] = note.end_tick
    return layers


def write_recording(passes: Sequence[Sequence[RawEvent]], *, part: Part, count_in_bars: int = 0) -> bytes:
    """Return a take's passes as a file of type 1 at the click's tempo, one track each, after the click's count-
    in.

    Notes, pedal, bend, modulation and aftertouch stay as they were played.

    Times are in ms from bar 1, latency taken off. What falls before the file's start is put at its start.
    """
    return _saved(_recorded(passes, part=part, count_in_bars=count_in_bars))


def write_with_copy(
    passes: Sequence[Sequence[RawEvent]], copy: Part, *, part: Part, names: tuple[str, str]
) -> bytes:
    """Return a take's passes and its corrected copy as one file of type 1, at the click's tempo and without a count-in: the
    passes' tracks have the first name, the copy's track the second.
    """
    file = _recorded(passes, part=part, count_in_bars=0)
    for track in file.tracks[1:]:
        track.insert(0, mido.MetaMessage("track_name", name=names[0], time=0))
    finer = TAKE_TICKS_PER_QUARTER // TICKS_PER_QUARTER
    channel = part.instrument.channel
    messages: list[tuple[int, mido.Message | mido.MetaMessage]] = [
        (0, mido.MetaMessage("track_name", name=names[1]))
    ]
    for note in copy.notes:
        messages += _note_messages(
            note.onset_tick * finer, note.end_tick * finer, note.pitch, note.velocity, channel
        )
    for mark in copy.pedal:
        messages += _pedal_messages(mark.start_tick * finer, mark.end_tick * finer, channel)
    file.tracks.append(_track(messages))
    return _saved(file)


def _recorded(passes: Sequence[Sequence[RawEvent]], *, part: Part, count_in_bars: int) -> mido.MidiFile:
    """A take's passes as a file."""
    bpm = part.tempos.first_bpm
    ticks_per_ms = bpm / 60_000.0 * TAKE_TICKS_PER_QUARTER
    count_in_ms = count_in_bars * part.meters.first.bar_quarters * 60_000.0 / bpm
    channel = part.instrument.channel
    meter = part.meters.first
    file = mido.MidiFile(type=1, ticks_per_beat=TAKE_TICKS_PER_QUARTER, charset="utf-8")
    file.tracks.append(_track([
        (0, mido.MetaMessage("set_tempo", tempo=round(60e6 / bpm))),
        (0, mido.MetaMessage("time_signature", numerator=meter.numerator, denominator=meter.denominator)),
    ]))  # fmt: skip
    for events in passes:
        file.tracks.append(_track(
            (
                max(0, round((time + count_in_ms) * ticks_per_ms)),
                mido.Message.from_bytes([(status & 0xF0) | channel, *data][: MESSAGE_BYTES.get(status & 0xF0, 3)]),
            )
            for time, status, *data in end_held_keys(events)
        ))  # fmt: skip
    return file


def _note_messages(
    onset: int, end: int, pitch: int, velocity: int, channel: int
) -> list[tuple[int, mido.Message]]:
    return [
        (onset, mido.Message("note_on", channel=channel, note=pitch, velocity=velocity)),
        (end, mido.Message("note_off", channel=channel, note=pitch, velocity=NOTE_OFF_VELOCITY)),
    ]


def _pedal_messages(start: int, end: int, channel: int) -> list[tuple[int, mido.Message]]:
    return [
        (tick, mido.Message("control_change", channel=channel, control=SUSTAIN_PEDAL, value=value))
        for tick, value in ((start, 127), (end, 0))
    ]


def _track(
    messages: Iterable[tuple[int, mido.Message | mido.MetaMessage]], *, end: int = 0
) -> mido.MidiTrack:
    """Messages at absolute ticks as a track that lasts to `end` at least; at one tick notes end before
    others begin, and the pedal comes up before it goes down."""

    def order(item: tuple[int, mido.Message | mido.MetaMessage]) -> tuple[int, int]:
        tick, message = item
        if message.type == "control_change":
            return tick, 1 if message.value else 0
        return tick, 2 if message.type == "note_on" else 0

    track = mido.MidiTrack()
    last = 0
    for tick, message in sorted(messages, key=order):
        track.append(message.copy(time=tick - last))
        last = tick
    track.append(mido.MetaMessage("end_of_track", time=max(0, end - last)))
    return track


def _saved(file: mido.MidiFile) -> bytes:
    buffer = io.BytesIO()
    file.save(file=buffer)
    return buffer.getvalue()
