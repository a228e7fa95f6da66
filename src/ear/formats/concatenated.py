"""Standard MIDI Files one after the other, as one."""

import io
from collections.abc import Sequence

from ear.formats.quick_mido import mido

TICKS = 960
"""Of a quarter note, as recordings have them; files of other resolutions are put to it."""


def concat_files(files: Sequence[tuple[bytes, int, str]]) -> bytes:
    """Return the files joined into one of type 1 with one track.

    Each comes with how many ticks (960 to a quarter) it lasts at least, and with its name. Each begins where
    the one before ends, at its own tempo, with a marker of its name. Without files, the result is empty.
    """
    track = mido.MidiTrack()
    waiting = 0
    for data, least, name in files:
        file = mido.MidiFile(file=io.BytesIO(data))
        scale = TICKS / file.ticks_per_beat
        track.append(mido.MetaMessage("marker", text=name, time=waiting))
        at = waiting = 0
        for message in mido.merge_tracks(file.tracks):
            at += message.time
            if message.type == "end_of_track":
                break
            tick = round(at * scale)
            track.append(message.copy(time=tick - waiting))
            waiting = tick
        last = round(at * scale)
        # What is left of its last bar belongs to it.
        waiting = max(last, least) - waiting
    track.append(mido.MetaMessage("end_of_track", time=waiting))
    made = mido.MidiFile(type=1, ticks_per_beat=TICKS, charset="utf-8")
    made.tracks.append(track)
    buffer = io.BytesIO()
    made.save(file=buffer)
    return buffer.getvalue()
