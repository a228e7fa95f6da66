"""MusicXML 4.0, plain and compressed, in and out."""

from ear.formats.musicxml.archive import read_musicxml, write_compressed
from ear.formats.musicxml.reading import Imported, ImportedPart
from ear.formats.musicxml.writing import write_musicxml

__all__ = ["Imported", "ImportedPart", "read_musicxml", "write_compressed", "write_musicxml"]
