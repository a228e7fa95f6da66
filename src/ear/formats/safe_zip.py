"""Archives from strangers, opened safely: few files, and none read further than it may be long."""

import io
import lzma
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from ear.errors import FormatError
from ear.formats import limits
from ear.text import term

BROKEN = (
    zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, lzma.LZMAError, NotImplementedError, RuntimeError, EOFError,
    ValueError, OSError,
)  # fmt: skip
"""What the library raises for archives that are damaged, by where they are."""


@contextmanager
def opened(data: bytes) -> Iterator[zipfile.ZipFile]:
    """Open an archive for reading with `entry`, and close it afterwards.

    Raises FormatError for anything else.
    """
    with _as_format_error():
        archive = zipfile.ZipFile(io.BytesIO(data))
    with archive:
        count = len(archive.infolist())
        if count > limits.ARCHIVE_FILES:
            raise limits.too_much("files in an archive", limits.ARCHIVE_FILES)
        yield archive


def entry(archive: zipfile.ZipFile, name: str, *, most: int = limits.OPENED_BYTES) -> bytes:
    """Return a file of the archive, of at most so many bytes whatever length the archive states.

    Raises FormatError, and KeyError if the file is missing.
    """
    archive.getinfo(name)
    with _as_format_error(), archive.open(name) as file:
        content = file.read(most + 1)
    if len(content) > most:
        raise limits.too_much("bytes in a file of the archive", most)
    return content


@contextmanager
def _as_format_error() -> Iterator[None]:
    try:
        yield
    except BROKEN as problem:
        raise FormatError(expected=term("an archive (zip)"), actual=f"{problem}") from problem
