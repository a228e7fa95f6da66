"""The browser's synthesiser: every velocity of every sound and every drum is heard, and no louder stroke sounds softer."""

import numpy as np
from django.templatetags.static import static

from ear.notes import STANDARD_KIT
from ear.practice.rules import SoundChoice
from oido.common.templatetags.oido import SOUND_NAMES, sound_files
from oido.stand.sounds import PROGRAMS
from tests.browser.base import BrowserTest
from tests.oido.loudness import KEYS, troubles

RATE = 22_050
TIMES_S = {"gap": 0.4, "held": 0.2, "heard": 0.25, "faded": 6.0}
"""From one note to the next, while the key is down, over which its loudness is taken, and until nothing of the loudest is left."""
LOUDNESS = """
async ([module, urls, program, pitches, rate, { gap, held, heard, faded }]) => {
  const { Sound, CHANNEL_TAKE, NOTE_ON, NOTE_OFF, channelOf } = await import(module);
  const count = pitches.length * 127;
  const context = new OfflineAudioContext(1, Math.ceil(pitches.length * (127 * gap + faded) * rate), rate);
  const own = program === null ? "kit" : String(program);
  const sound = new Sound({ firstSounds: [own], addresses: urls, context });
  sound.playWith(program ?? 0);
  sound.bank.start(context, [own]);
  await sound.bank.starting;
  await sound.bank.require([own]);
  const channel = channelOf(CHANNEL_TAKE, program === null);
  const when = (k) => k * gap + (1 + Math.floor(k / 127)) * faded - gap;
  sound.play(pitches.flatMap((pitch, p) => Array.from({ length: 127 }, (_, v) => when(127 * p + v)).flatMap((time, v) => [
    [time, NOTE_ON | channel, pitch, v + 1],
    [time + held, NOTE_OFF | channel, pitch, 0],
  ])));
  // What it refuses is answered, and by then it has what came before.
  const { port } = sound.bank.node;
  await new Promise((done) => { port.onmessage = done; port.postMessage({ type: "bank", name: "none", data: new ArrayBuffer(1) }); });
  const samples = (await context.startRendering()).getChannelData(0);
  return Array.from({ length: count }, (_, k) => {
    const of = samples.subarray(Math.round(when(k) * rate), Math.round((when(k) + heard) * rate));
    return 10 * Math.log10(of.reduce((sum, x) => sum + x * x, 0) / of.length + 1e-20);
  });
}
"""


class SynthesiserTest(BrowserTest):
    def loudness(self, pitches: tuple[int, ...], program: int | None, version: str) -> np.ndarray:
        """Of velocities 1 to 127 of each pitch, in dB of full scale, shape (pitches, 127); `program` is None for the kit."""
        url = static(sound_files("kit" if program is None else str(program))[version])
        # One version alone, so that it is the one that sounds.
        urls = {
            "worklet": static("sound/synth.js"),
            "sounds": dict.fromkeys(SOUND_NAMES, dict.fromkeys(("first", "full"), url)),
        }
        asked = [static("common/js/sound.js"), urls, program, list(pitches), RATE, TIMES_S]
        values = self.page.evaluate(LOUDNESS, asked)
        return np.array(values).reshape(len(pitches), 127)

    def test_every_velocity_of_every_sound_and_drum_is_heard(self) -> None:
        self.visit("/sign-in/")
        actual = []
        self.assertLessEqual({str(program) for program in PROGRAMS.values()} | {"kit"}, set(SOUND_NAMES))
        # The full versions are the server's own sounds, which tests/oido/test_sound.py hears; one is heard here, too.
        for version, programs in (
            ("first", PROGRAMS),
            ("full", {SoundChoice.BASS: PROGRAMS[SoundChoice.BASS]}),
        ):
            for sound, program in programs.items():
                for pitch, loudness in zip(KEYS, self.loudness(KEYS, program, version), strict=True):
                    actual += troubles(f"{sound.value} ({version}) at key {pitch}", loudness)
        drums = tuple(sorted({pitch for lane in STANDARD_KIT.lanes for pitch in lane.pitches}))
        for pitch, loudness in zip(drums, self.loudness(drums, None, "first"), strict=True):
            actual += troubles(f"drum {pitch}", loudness)
        self.assertEqual(actual, [])
