"""Sound files: every velocity of every sound and every drum is heard, and no louder stroke sounds softer."""

import io
import subprocess
import tempfile
from datetime import date
from pathlib import Path

import numpy as np
import soundfile
from django.conf import settings
from django.test import SimpleTestCase

from ear.formats.quick_mido import mido
from ear.notes import STANDARD_KIT
from oido.exercises import audio
from oido.stand.sounds import PROGRAMS
from tests.ear.parts import melody
from tests.oido.loudness import KEYS, troubles

RATE = 44_100
GAP_S, HELD_S, HEARD_S = 0.5, 0.2, 0.25
"""From one note to the next, while the key is down, and over which its loudness is taken."""
PERCUSSION = 9


def loudness_by_velocity(bank: Path, *, pitch: int, program: int | None) -> np.ndarray:
    """Loudness of velocities 1 to 127 in dB of full scale, shape (127,); `program` is None for the kit."""
    file, track = mido.MidiFile(ticks_per_beat=1000), mido.MidiTrack()
    file.tracks.append(track)
    track.append(mido.MetaMessage("set_tempo", tempo=1_000_000))
    channel = PERCUSSION if program is None else 0
    if program is not None:
        track.append(mido.Message("program_change", program=program))
    for velocity in range(1, 128):
        wait = 0 if velocity == 1 else round(1000 * (GAP_S - HELD_S))
        track.append(mido.Message("note_on", channel=channel, note=pitch, velocity=velocity, time=wait))
        track.append(mido.Message("note_off", channel=channel, note=pitch, time=round(1000 * HELD_S)))
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder, "a.mid"), Path(folder, "a.wav")
        file.save(source)
        subprocess.run(
            [
                "fluidsynth", "-ni", "-q", "-g", "1", "-R", "0", "-C", "0", "-r", str(RATE), "-O", "float", "-T", "wav",
                "-F", str(target), str(bank), str(source),
            ],
            check=True, capture_output=True,
        )  # fmt: skip
        samples, _rate = soundfile.read(target, dtype="float64", always_2d=True)
    starts = (np.arange(127) * GAP_S * RATE).round().astype(int)
    return np.array([decibels(samples[start : start + round(HEARD_S * RATE)]) for start in starts])


def decibels(samples: np.ndarray) -> float:
    """Loudness of samples (n, channels), in dB of full scale."""
    return float(10 * np.log10((samples**2).mean() + 1e-20))


class SoundBankTest(SimpleTestCase):
    def test_every_velocity_of_every_sound_and_drum_is_heard(self) -> None:
        actual = []
        for sound, program in PROGRAMS.items():
            for pitch in KEYS:
                loudness = loudness_by_velocity(settings.SOUND_BANK, pitch=pitch, program=program)
                actual += troubles(f"{sound.value} at key {pitch}", loudness)
        for pitch in sorted({pitch for lane in STANDARD_KIT.lanes for pitch in lane.pitches}):
            loudness = loudness_by_velocity(settings.SOUND_BANK, pitch=pitch, program=None)
            actual += troubles(f"drum {pitch}", loudness)
        self.assertEqual(actual, [])


class TagsTest(SimpleTestCase):
    def test_files_say_who_plays_what_and_when(self) -> None:
        tags = audio.Tags(
            title="Slack Water", artist="Maren Osei", day=date(2026, 11, 30), detail="take 2 slower"
        )
        self.assertEqual(tags.file_name("wav"), "maren-osei-slack-water-take-2-slower-2026-11-30.wav")
        self.assertEqual(audio.Tags(title="/…").file_name("ogg"), "sound.ogg")
        for ending in audio.FORMATS:
            data = audio.render(melody(bars=1), ending, tags)
            with soundfile.SoundFile(io.BytesIO(data)) as file:
                told = (file.title, file.artist, file.date[:4])
            self.assertEqual(told, ("Slack Water, take 2 slower", "Maren Osei", "2026"), ending)
