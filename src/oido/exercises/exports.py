"""The table of what an exercise can be downloaded as. The page, the addresses and the view read it."""

from django.utils.translation import gettext_lazy as _

from ear.formats.braille import as_brf, write_braille
from ear.formats.musicxml import write_compressed, write_musicxml
from ear.formats.musicxml.archive import MIMETYPE
from ear.formats.smf_writing import write_part
from oido.exercises import audio
from oido.exercises.bundle import write_bundle
from oido.exercises.models import Exercise
from oido.jobs.exports import Export, by_file


def _document(exercise: Exercise) -> bytes:
    return write_musicxml(exercise.part_in_force.read(), title=exercise.title)


EXPORTS: tuple[tuple[Export[Exercise], ...], ...] = (
    (Export(
        file="sheet.pdf", name=_("Sheet to print (PDF)"), job="exercises.sheet", title=_("%(title)s, to print"),
        is_for_reader=True,
    ),),
    (Export(
        file="part.mid", name=_("MIDI file"), content_type="audio/midi",
        make=lambda exercise: write_part(exercise.part_in_force.read(), title=exercise.title),
    ),),
    (
        Export(file="part.musicxml", name="MusicXML", content_type=f"{MIMETYPE}+xml", make=_document),
        Export(
            file="part.mxl", name=_("MusicXML, compressed"), content_type=MIMETYPE,
            make=lambda exercise: write_compressed(_document(exercise)),
        ),
    ),
    (Export(
        file="part.brf", name=_("Braille music (BRF)"), content_type="text/plain",
        make=lambda exercise: as_brf(write_braille(exercise.part_in_force.read())).encode("ascii"),
        applies_to=lambda exercise: exercise.instrument.has_key,
    ),),
    tuple(
        Export(
            file=f"part.{ending}", name=name, job="exercises.sound", title=_("%(title)s as sound"),
            arguments={"ending": ending},
        )
        for ending, name in (("mp3", _("Sound as MP3")), ("ogg", "Ogg"), ("wav", "WAV"))
        if ending in audio.FORMATS
    ),
    (Export(
        file="bundle.zip", name=_("Whole exercise, for another Oido"), content_type="application/zip", make=write_bundle,
    ),),
)  # fmt: skip
"""In the lines in which the page shows them."""
FOR_TEACHERS = frozenset({"bundle.zip"})
"""With the rules and the ladder: not for students."""
BY_FILE = by_file(export for line in EXPORTS for export in line)
