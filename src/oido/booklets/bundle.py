"""A booklet as one archive of open formats, which another Oido can take in."""

import io
import json
import zipfile
from dataclasses import dataclass
from typing import Annotated, Literal

import msgspec
from msgspec import Meta

from ear.errors import FormatError
from ear.formats import limits, safe_zip
from ear.formats.characters import refuse_control_characters
from ear.plain import from_plain, to_plain
from oido.booklets.models import MAX_ITEMS, MAX_TEXT_LENGTH, Booklet
from oido.booklets.queries import items_of
from oido.exercises.bundle import Bundled, read_bundle, write_bundle
from oido.exercises.models import MAX_TITLE_LENGTH

SCHEMA: Literal["oido.booklet/1"] = "oido.booklet/1"
MANIFEST = "booklet.json"
BOOKLET_NOTES = 100_000
"""In all its exercises together."""


class ManifestItem(msgspec.Struct, kw_only=True):
    file: str
    heading: Annotated[str, Meta(max_length=MAX_TITLE_LENGTH)] = ""
    text: Annotated[str, Meta(max_length=MAX_TEXT_LENGTH)] = ""


class BookletManifest(msgspec.Struct, kw_only=True):
    """What `booklet.json` holds: the exercises' own archives stand beside it, by their files' names."""

    schema: Literal["oido.booklet/1"]
    title: Annotated[str, Meta(min_length=1, max_length=MAX_TITLE_LENGTH)]
    text: Annotated[str, Meta(max_length=MAX_TEXT_LENGTH)] = ""
    items: Annotated[list[ManifestItem], Meta(max_length=MAX_ITEMS)]


@dataclass(frozen=True, slots=True, kw_only=True)
class BundledItem:
    heading: str
    text: str
    exercise: Bundled


@dataclass(frozen=True, slots=True, kw_only=True)
class BundledBooklet:
    title: str
    text: str
    items: tuple[BundledItem, ...]

    @property
    def notes(self) -> int:
        """In all its exercises together."""
        return sum(len(item.exercise.part.notes) for item in self.items)


def write_booklet(booklet: Booklet) -> bytes:
    items = items_of(booklet)
    files = [f"{k:02d}.zip" for k in range(1, len(items) + 1)]
    manifest = BookletManifest(
        schema=SCHEMA, title=booklet.title, text=booklet.text,
        items=[
            ManifestItem(file=file, heading=one.heading, text=one.text) for file, one in zip(files, items, strict=True)
        ],
    )  # fmt: skip
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        data = json.dumps(to_plain(manifest), ensure_ascii=False, indent=1).encode()
        archive.writestr(zipfile.ZipInfo(MANIFEST), data, zipfile.ZIP_DEFLATED)
        for file, item in zip(files, items, strict=True):
            # Without a date: the same booklet gives the same archive.
            archive.writestr(zipfile.ZipInfo(file), write_bundle(item.exercise), zipfile.ZIP_STORED)
    return buffer.getvalue()


def is_booklet(data: bytes) -> bool:
    try:
        with safe_zip.opened(data) as archive:
            return MANIFEST in archive.namelist()
    except FormatError:
        return False


def read_booklet(data: bytes) -> BundledBooklet:
    """Return the booklet in an archive. Raise FormatError, naming the file that is wrong."""
    with safe_zip.opened(data) as archive:
        if MANIFEST not in archive.namelist():
            raise FormatError(expected=f"an archive with {MANIFEST}", actual="none")
        try:
            plain = json.loads(safe_zip.entry(archive, MANIFEST))
            refuse_control_characters(plain)
        except (ValueError, RecursionError) as problem:
            raise FormatError(expected=SCHEMA, actual=f"{problem}") from problem
        manifest = from_plain(plain, BookletManifest, expected=SCHEMA)
        items = []
        # One that stands in several places is read once.
        exercises: dict[str, Bundled] = {}
        notes = limits.Counted(BOOKLET_NOTES, "notes in a booklet")
        for item in manifest.items:
            if item.file not in archive.namelist():
                raise FormatError(expected=item.file, actual="no such file in the archive")
            if item.file not in exercises:
                exercises[item.file] = read_bundle(safe_zip.entry(archive, item.file))
            exercise = exercises[item.file]
            notes.add(len(exercise.part.notes))
            items.append(BundledItem(heading=item.heading, text=item.text, exercise=exercise))
    return BundledBooklet(title=manifest.title, text=manifest.text, items=tuple(items))
