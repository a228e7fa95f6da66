"""The table of what a take can be downloaded as."""

from django.utils.translation import gettext_lazy as _

from oido.exercises import audio
from oido.jobs.exports import Export, by_file
from oido.takes.models import Take
from oido.takes.outputs import midi_with_copy, recorded_midi

EXPORTS: tuple[Export[Take], ...] = (
    Export(
        file="take.mid", name=_("MIDI"), content_type="audio/midi",
        make=lambda take: recorded_midi(take, with_count_in=True),
    ),
    Export(
        file="take-and-copy.mid", name=_("MIDI with the corrected copy"), content_type="audio/midi", make=midi_with_copy,
        applies_to=lambda take: hasattr(take, "corrected"),
    ),
    *(
        Export(
            file=f"take.{ending}", name=name, job="takes.sound", title=_("%(title)s, take %(n)s as sound"),
            arguments={"ending": ending},
        )
        for ending, name in (("wav", "WAV"), ("mp3", "MP3"), ("ogg", "Ogg"))
        if ending in audio.FORMATS
    ),
)  # fmt: skip
BY_FILE = by_file(EXPORTS)
