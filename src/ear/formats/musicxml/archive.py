"""Documents and compressed documents, opened safely: sizes first, no entities, nothing fetched."""

import io
import zipfile
import zlib
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from ear.errors import FormatError
from ear.formats.musicxml.reading import Imported, read_score

BYTES_MAX = 4_000_000
"""Of the file as it comes."""
OPENED_MAX = 20_000_000
"""Of a document, once it is open: small archives can hold huge ones."""
ENTRIES_MAX = 200
CONTAINER = "META-INF/container.xml"
ZIP_START = b"PK\x03\x04"
MIMETYPE = "application/vnd.recordare.musicxml"
DOCUMENT_NAME = "part.musicxml"


def read_musicxml(data: bytes) -> Imported:
    """Read a document, plain or compressed. Raises FormatError for all that is not one, or is too large."""
    if not data:
        raise FormatError(expected="MusicXML", found="an empty file", offset=0)
    if len(data) > BYTES_MAX:
        raise FormatError(expected=f"at most {BYTES_MAX:,} bytes", found=f"{len(data):,}")
    document = _open_archive(data) if data.startswith(ZIP_START) else data
    return read_score(_parse(document))


def _parse(document: bytes) -> Element:
    if len(document) > OPENED_MAX:
        raise FormatError(expected=f"a document of at most {OPENED_MAX:,} bytes", found=f"{len(document):,}")
    try:
        root: Element = fromstring(document)
    except DefusedXmlException as problem:
        raise FormatError(expected="a document without entities", found=type(problem).__name__) from problem
    except (ParseError, ValueError, LookupError) as problem:
        raise FormatError(expected="MusicXML", found=f"{problem}") from problem
    return root


def _open_archive(data: bytes) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            if len(archive.infolist()) > ENTRIES_MAX:
                raise FormatError(
                    expected=f"an archive of at most {ENTRIES_MAX} files", found=f"{len(archive.infolist())}"
                )
            return _entry(archive, _score_name(archive))
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, EOFError, zipfile.LargeZipFile) as problem:
        raise FormatError(expected="compressed MusicXML", found=f"{problem}") from problem
    except zlib.error as problem:
        raise FormatError(expected="compressed MusicXML", found=f"{problem}") from problem


def _score_name(archive: zipfile.ZipFile) -> str:
    """What the container calls its first root file; without a container the first document."""
    names = [info.filename for info in archive.infolist()]
    if CONTAINER in names:
        for element in _parse(_entry(archive, CONTAINER)).iter():
            path = element.get("full-path")
            if element.tag.split("}")[-1] == "rootfile" and path in names:
                return path
    for name in names:
        if name.endswith((".musicxml", ".xml")) and not name.startswith("META-INF/"):
            return name
    raise FormatError(expected="an archive with a score in it", found="none")


def _entry(archive: zipfile.ZipFile, name: str) -> bytes:
    """A file of the archive, read no further than it may be long, whatever the archive says of it."""
    with archive.open(name) as entry:
        found = entry.read(OPENED_MAX + 1)
    if len(found) > OPENED_MAX:
        raise FormatError(expected=f"a document of at most {OPENED_MAX:,} bytes", found="a larger one")
    return found


def write_compressed(document: bytes) -> bytes:
    """A document as a compressed one (.mxl)."""
    container = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<container><rootfiles>'
        f'<rootfile full-path="{DOCUMENT_NAME}" media-type="{MIMETYPE}+xml"/></rootfiles></container>\n'
    )
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        # The format wants the type first, and not compressed.
        archive.writestr(zipfile.ZipInfo("mimetype"), MIMETYPE)
        archive.writestr(zipfile.ZipInfo(CONTAINER), container)
        archive.writestr(zipfile.ZipInfo(DOCUMENT_NAME), document, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()
