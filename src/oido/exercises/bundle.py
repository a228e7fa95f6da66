"""An exercise as one archive of open formats, which another Oido can take in."""

import io
import json
import zipfile
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Annotated, Any, Literal

import msgspec
from msgspec import Meta

from ear.criteria.levels import LEVELS
from ear.errors import EarError, FormatError
from ear.formats import safe_zip
from ear.formats.characters import refuse_control_characters
from ear.formats.musicxml import write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.smf_writing import write_part
from ear.free.exercise import FreeSpec
from ear.labels import LabelKind
from ear.notes import Part
from ear.plain import from_plain, to_plain
from ear.practice.ladder import Ladder
from ear.practice.rules import RecordingRules
from ear.text import term
from ear.units import MAX_BPM, MIN_BPM
from oido.exercises.models import MAX_TITLE_LENGTH, Exercise

SCHEMA: Literal["oido.exercise/1"] = "oido.exercise/1"
MANIFEST = "exercise.json"
MANIFEST_BYTES = 3_000_000
"""Twice what an exercise of as many notes as it may have and a backing as long need."""
MAX_INSTRUCTIONS_LENGTH, MAX_COUNT_IN = 4000, 4


class ExerciseManifest(msgspec.Struct, kw_only=True):
    """What `exercise.json` holds. The plain values in it are read by their own codecs."""

    schema: Literal["oido.exercise/1"]
    title: str
    kind: str = ""
    instructions: str = ""
    tempo_bpm: str
    count_in_bars: Annotated[int, Meta(ge=0, le=MAX_COUNT_IN)]
    level: str
    labels: list[str] = []
    rules: Any = {}
    ladder: Any = []
    part: Any
    backing: Any = None
    free: Any = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Bundled:
    """All of an exercise, as an archive holds it."""

    title: str
    instructions: str
    tempo_bpm: Decimal
    count_in_bars: int
    level: str
    labels: tuple[LabelKind, ...]
    rules: RecordingRules
    ladder: Ladder
    part: Part
    backing: Part | None
    free: FreeSpec | None = None


def write_bundle(exercise: Exercise) -> bytes:
    """Return an archive with the manifest, which holds everything, and the part in other open formats."""
    part = exercise.part_in_force.read()
    manifest = to_plain(
        ExerciseManifest(
            schema=SCHEMA, title=exercise.title, kind=exercise.kind, instructions=exercise.instructions,
            tempo_bpm=str(exercise.tempo_bpm), count_in_bars=exercise.count_in_bars, level=exercise.level,
            labels=exercise.labels, rules=exercise.rules, ladder=exercise.ladder, part=part_to_json(part),
            backing=exercise.backing, free=exercise.part_in_force.free,
        )
    )  # fmt: skip
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            (MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1).encode()),
            ("part.mid", write_part(part, title=exercise.title)),
            ("part.musicxml", write_musicxml(part, title=exercise.title)),
        ):
            # Without a date: the same exercise gives the same archive.
            archive.writestr(zipfile.ZipInfo(name), data, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def is_bundle(data: bytes) -> bool:
    try:
        with safe_zip.opened(data) as archive:
            return MANIFEST in archive.namelist()
    except FormatError:
        return False


def read_bundle(data: bytes) -> Bundled:
    """Return the exercise in an archive.

    Raise FormatError if it is not a bundle, or holds values that are not allowed.
    """
    with safe_zip.opened(data) as archive:
        if MANIFEST not in archive.namelist():
            raise FormatError(expected=f"an archive with {MANIFEST}", actual="none")
        text = safe_zip.entry(archive, MANIFEST, most=MANIFEST_BYTES)
    try:
        manifest = json.loads(text)
        refuse_control_characters(manifest)
        return _read(manifest)
    except (ValueError, InvalidOperation, RecursionError) as problem:
        raise FormatError(expected=SCHEMA, actual=f"{problem}") from problem
    except EarError as problem:
        if isinstance(problem, FormatError):
            raise
        raise FormatError(expected=SCHEMA, actual=f"{problem}") from problem


def _read(data: Any) -> Bundled:
    manifest = from_plain(data, ExerciseManifest, expected=SCHEMA)
    part = part_from_json(manifest.part)
    tempo = Decimal(manifest.tempo_bpm).quantize(Decimal("0.01"))
    title = manifest.title.strip()
    if not MIN_BPM <= tempo <= MAX_BPM or manifest.level not in LEVELS:
        raise FormatError(
            expected=term("a tempo and a level that there are"), actual=f"{tempo}, {manifest.level}"
        )
    free = FreeSpec.from_json(manifest.free) if manifest.free else None
    rules = RecordingRules.from_json(manifest.rules)
    if free is not None:
        # What it asks for must be something that can be asked on its page.
        free.exercise(part)
    if not title or not (part.notes or free is not None or rules.has_questions_only):
        raise FormatError(expected=term("an exercise with a title and notes"), actual="one without")
    return Bundled(
        title=title[:MAX_TITLE_LENGTH],
        instructions=manifest.instructions[:MAX_INSTRUCTIONS_LENGTH],
        tempo_bpm=tempo,
        count_in_bars=manifest.count_in_bars,
        level=manifest.level,
        labels=tuple(k for k in LabelKind if k.value in manifest.labels),
        rules=rules,
        ladder=Ladder.from_json(manifest.ladder, part),
        part=part,
        backing=part_from_json(manifest.backing) if manifest.backing else None,
        free=free,
    )
