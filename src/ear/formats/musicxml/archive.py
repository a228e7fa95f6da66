"""Documents and compressed documents, opened safely: sizes first, no entities, nothing fetched."""

import io
import zipfile
from xml.etree.ElementTree import Element, ParseError, TreeBuilder

from defusedxml import DefusedXmlException
from defusedxml.ElementTree import DefusedXMLParser

from ear.errors import FormatError
from ear.formats import limits, safe_zip
from ear.formats.limits import Counted
from ear.formats.musicxml.reading import Imported, read_score
from ear.text import term

PIECE_BYTES = 65_536
CONTAINER = "META-INF/container.xml"
ZIP_START = b"PK\x03\x04"
MIMETYPE = "application/vnd.recordare.musicxml"
DOCUMENT_NAME = "part.musicxml"


def read_musicxml(data: bytes) -> Imported:
    """Read a document, plain or compressed. Raises FormatError for all that is not one, or is too large."""
    if not data:
        raise FormatError(expected=term("MusicXML"), actual="an empty file", offset=0)
    if len(data) > limits.FILE_BYTES:
        raise limits.too_much("bytes", limits.FILE_BYTES)
    document = _open_archive(data) if data.startswith(ZIP_START) else data
    return read_score(_parse(document))


class _Tree(TreeBuilder):
    """Builds a document of so many elements at most, so deep at most."""

    def __init__(self) -> None:
        super().__init__()
        self.elements = Counted(limits.ELEMENTS, "elements")
        self.depth = 0

    def start(self, tag: str, attrs: dict[str, str], /) -> Element:
        self.elements.add()
        self.depth += 1
        if self.depth > limits.DEPTH:
            raise limits.too_much("elements in one another", limits.DEPTH)
        return super().start(tag, attrs)

    def end(self, tag: str, /) -> Element:
        self.depth -= 1
        return super().end(tag)


def _parse(document: bytes) -> Element:
    if len(document) > limits.OPENED_BYTES:
        raise limits.too_much("bytes in a document", limits.OPENED_BYTES)
    parser = DefusedXMLParser(target=_Tree())
    try:
        # In pieces: what is too much is found before all of it is read.
        for start in range(0, len(document), PIECE_BYTES):
            parser.feed(document[start : start + PIECE_BYTES])
        root: Element = parser.close()
    except DefusedXmlException as problem:
        raise FormatError(
            expected=term("a document without entities"), actual=type(problem).__name__
        ) from problem
    except (ParseError, ValueError, LookupError) as problem:
        raise FormatError(expected=term("MusicXML"), actual=f"{problem}") from problem
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
    raise FormatError(expected=term("an archive with a score in it"), actual="none")


def write_compressed(document: bytes) -> bytes:
    """Return a document in the compressed format (.mxl)."""
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
