"""Documents and compressed documents, opened safely: sizes first, no entities, nothing fetched."""

import io
import zipfile
from xml.etree.ElementTree import Element, ParseError

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from ear.errors import FormatError
from ear.formats import safe_zip
from ear.formats.musicxml.reading import Imported, read_score

BYTES_MAX = 4_000_000
"""Of the file as it comes."""
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
    if len(document) > safe_zip.OPENED_MAX:
        raise FormatError(
            expected=f"a document of at most {safe_zip.OPENED_MAX:,} bytes", found=f"{len(document):,}"
        )
    try:
        root: Element = fromstring(document)
    except DefusedXmlException as problem:
        raise FormatError(expected="a document without entities", found=type(problem).__name__) from problem
    except (ParseError, ValueError, LookupError) as problem:
        raise FormatError(expected="MusicXML", found=f"{problem}") from problem
    return root


def _open_archive(data: bytes) -> bytes:
    with safe_zip.opened(data) as archive:
        return safe_zip.entry(archive, _score_name(archive))


def _score_name(archive: zipfile.ZipFile) -> str:
    """What the container calls its first root file; without a container the first document."""
    names = [info.filename for info in archive.infolist()]
    if CONTAINER in names:
        for element in _parse(safe_zip.entry(archive, CONTAINER)).iter():
            path = element.get("full-path")
            if element.tag.split("}")[-1] == "rootfile" and path in names:
                return path
    for name in names:
        if name.endswith((".musicxml", ".xml")) and not name.startswith("META-INF/"):
            return name
    raise FormatError(expected="an archive with a score in it", found="none")


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
