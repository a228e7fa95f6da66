"""Archives from strangers, opened safely: few files, and none read further than it may be long."""

import io
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager

from ear.errors import FormatError

ENTRIES_MAX = 200
OPENED_MAX = 20_000_000
"""Bytes of a file, once it is open: small archives can hold huge ones."""


@contextmanager
def opened(data: bytes) -> Iterator[zipfile.ZipFile]:
    """An archive to read from. Raises FormatError for what is none, also while it is read."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            count = len(archive.infolist())
            if count > ENTRIES_MAX:
                raise FormatError(expected=f"an archive of at most {ENTRIES_MAX} files", found=f"{count}")
            yield archive
    except (
        zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError,
    ) as problem:  # fmt: skip
        raise FormatError(expected="an archive (zip)", found=f"{problem}") from problem


def entry(archive: zipfile.ZipFile, name: str) -> bytes:
    """A file of the archive, whatever length the archive says it has."""
    with archive.open(name) as file:
        found = file.read(OPENED_MAX + 1)
    if len(found) > OPENED_MAX:
        raise FormatError(expected=f"a file of at most {OPENED_MAX:,} bytes", found="a larger one")
    return found
