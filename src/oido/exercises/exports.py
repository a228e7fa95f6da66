"""The table of what an exercise can be downloaded as. The page, the addresses and the view read it."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from django.utils.functional import Promise
from django.utils.translation import gettext_lazy as _

from ear.formats.musicxml import write_compressed, write_musicxml
from ear.formats.musicxml.archive import MIMETYPE
from ear.formats.smf_writing import write_part
from oido.exercises import audio
from oido.exercises.bundle import write_bundle
from oido.exercises.models import Exercise


@dataclass(frozen=True, slots=True, kw_only=True)
class Export:
    """A file made at once by `make`, or in the background by a `job`, told what it needs besides the exercise."""

    file: str
    """Its name in the address."""
    name: str | Promise
    content_type: str = ""
    make: Callable[[Exercise], bytes] | None = None
    job: str = ""
    title: str | Promise = ""
    """Of the job, with the exercise's `title`."""
    is_for_reader: bool = False
    """Does the job name and spell things as the reader does?"""
    arguments: dict[str, Any] = field(default_factory=dict)

    @property
    def ending(self) -> str:
        return self.file.rpartition(".")[2]


def _document(exercise: Exercise) -> bytes:
    return write_musicxml(exercise.part_in_force.read(), title=exercise.title)


EXPORTS = (
    (Export(
        file="sheet.pdf", name=_("Sheet to print (PDF)"), job="exercises.sheet", title=_("%(title)s, to print"),
        is_for_reader=True,
    ),),
    (Export(
        file="part.mid", name=_("MIDI file"), content_type="audio/midi",
        make=lambda exercise: write_part(exercise.part_in_force.read()),
    ),),
    (
        Export(file="part.musicxml", name="MusicXML", content_type=f"{MIMETYPE}+xml", make=_document),
        Export(
            file="part.mxl", name=_("MusicXML, compressed"), content_type=MIMETYPE,
            make=lambda exercise: write_compressed(_document(exercise)),
        ),
    ),
    tuple(
        Export(
            file=f"part.{ending}", name=name, job="exercises.sound", title=_("%(title)s as sound"),
            arguments={"ending": ending},
        )
        for ending, name in (("mp3", _("Sound as MP3")), ("ogg", "Ogg"), ("wav", "WAV"))
        if ending in audio.FORMATS
    ),
    (Export(
        file="bundle.zip", name=_("Everything, for another Oido"), content_type="application/zip", make=write_bundle,
    ),),
)  # fmt: skip
"""In the lines in which the page shows them."""
BY_FILE = {export.file: export for line in EXPORTS for export in line}
