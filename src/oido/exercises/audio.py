"""A part as sound: rendered by fluidsynth with the sound bank that the pages play, written by libsndfile."""

import io
import subprocess
import tempfile
from dataclasses import dataclass
from datetime import date
from pathlib import Path

import numpy as np
import soundfile
from django.conf import settings
from django.utils.text import slugify

from ear.errors import EarError
from ear.formats.smf_writing import write_part
from ear.notes import Kind, Part

FORMATS = {"wav": ("WAV", "PCM_16"), "ogg": ("OGG", "VORBIS"), "mp3": ("MP3", "MPEG_LAYER_III")}
"""By the ending of a file's name: libsndfile's format and subtype."""
TYPES = {"wav": "audio/wav", "ogg": "audio/ogg", "mp3": "audio/mpeg"}
RATE = 44_100
PEAK = 0.89
"""One decibel under full."""
TAIL_S = 2.0
FADE_S = 0.25
MAX_SECONDS = 900
ELECTRIC_PIANO = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class Tags:
    """What a sound file says of itself, and how it is called."""

    title: str
    artist: str = ""
    """Who plays: a student."""
    day: date | None = None
    detail: str = ""
    """What tells files of one title and player apart, such as the number of a take."""

    def file_name(self, ending: str) -> str:
        """Return a name that any system can store."""
        words = (self.artist, self.title, self.detail, self.day.isoformat() if self.day else "")
        return f"{'-'.join(filter(None, map(slugify, words))) or 'sound'}.{ending}"


class NoSound(EarError):
    """The part cannot be rendered: it is too long, or the synthesizer failed."""


def render(part: Part, ending: str, tags: Tags | None = None) -> bytes:
    """Return a part as a sound file, normalised and faded out. Raise NoSound."""
    length_s = part.tempos.second_at(part.bars[-1].end_tick)
    return render_midi(write_part(part), kind=part.kind, length_s=length_s, ending=ending, tags=tags)


def render_midi(midi: bytes, *, kind: Kind, length_s: float, ending: str, tags: Tags | None = None) -> bytes:
    """Return a Standard MIDI File of this duration as a sound file with these tags. Raise NoSound."""
    if length_s > MAX_SECONDS:
        raise NoSound(f"a sound file lasts up to {MAX_SECONDS // 60} minutes, this one {length_s / 60:.0f}")
    samples = _synthesize(midi, kind, length_s)
    peak = float(np.abs(samples).max(initial=0.0))
    if peak:
        samples *= PEAK / peak
    fade = min(len(samples), round(FADE_S * RATE))
    if fade:
        samples[-fade:] *= np.linspace(1.0, 0.0, fade)[:, None]
    container, subtype = FORMATS[ending]
    buffer = io.BytesIO()
    with soundfile.SoundFile(
        buffer, "w", samplerate=RATE, channels=samples.shape[1], format=container, subtype=subtype
    ) as file:
        if tags is not None:
            file.title = f"{tags.title}, {tags.detail}" if tags.detail else tags.title
            if tags.artist:
                file.artist = tags.artist
            if tags.day is not None:
                file.date = tags.day.isoformat()
        file.write(samples)
    return buffer.getvalue()


def _synthesize(midi: bytes, kind: Kind, length_s: float) -> np.ndarray:
    """(samples, 2), from bar 1 to a short tail behind the last bar."""
    with tempfile.TemporaryDirectory(prefix="oido-sound-") as folder:
        source, target = Path(folder, "part.mid"), Path(folder, "part.wav")
        commands = Path(folder, "sounds.txt")
        source.write_bytes(midi)
        commands.write_text("" if kind.instrument.has_lanes else f"prog 0 {ELECTRIC_PIANO}\n")
        done = subprocess.run(
            [
                "fluidsynth", "-ni", "-q", "-g", "1", "-r", str(RATE), "-O", "s16", "-T", "wav", "-F", str(target),
                "-f", str(commands), str(settings.SOUND_BANK), str(source),
            ],
            stdin=subprocess.DEVNULL, capture_output=True, text=True, timeout=120, check=False,
        )  # fmt: skip
        if done.returncode or not target.exists():
            raise NoSound(f"the synthesizer failed: {done.stderr.strip()[-200:]}")
        samples, _rate = soundfile.read(target, dtype="float64", always_2d=True)
    whole: np.ndarray = samples[: round((length_s + TAIL_S) * RATE)]
    return whole
