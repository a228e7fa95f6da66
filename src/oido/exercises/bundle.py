"""An exercise as one archive of open formats, which another Oido can take in."""

import io
import json
import zipfile
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from typing import Any

from ear.errors import EarError, FormatError
from ear.formats import safe_zip
from ear.formats.musicxml import write_musicxml
from ear.formats.part_json import part_from_json, part_to_json
from ear.formats.smf_writing import write_part
from ear.judging.levels import LEVELS
from ear.labels import LabelKind
from ear.notes import Part
from ear.practice.ladder import Ladder
from ear.practice.rules import RecordingRules
from ear.units import BPM_MAX, BPM_MIN
from oido.exercises.models import Exercise

SCHEMA = "oido.exercise/1"
MANIFEST = "exercise.json"
TITLE_MOST, INSTRUCTIONS_MOST, COUNT_IN_MOST = 120, 4000, 4


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


def write_bundle(exercise: Exercise) -> bytes:
    """The manifest, which holds everything, and the part in formats that others read."""
    part = exercise.part_in_force.read()
    manifest = {
        "schema": SCHEMA,
        "title": exercise.title,
        "kind": exercise.kind,
        "instructions": exercise.instructions,
        "tempo_bpm": str(exercise.tempo_bpm),
        "count_in_bars": exercise.count_in_bars,
        "level": exercise.level,
        "labels": exercise.labels,
        "rules": exercise.rules,
        "ladder": exercise.ladder,
        "part": part_to_json(part),
        "backing": exercise.backing,
    }
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in (
            (MANIFEST, json.dumps(manifest, ensure_ascii=False, indent=1).encode()),
            ("part.mid", write_part(part)),
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
    """Raises FormatError for what is no bundle, or one that says what cannot be."""
    with safe_zip.opened(data) as archive:
        if MANIFEST not in archive.namelist():
            raise FormatError(expected=f"an archive with {MANIFEST}", found="none")
        text = safe_zip.entry(archive, MANIFEST)
    try:
        return _read(json.loads(text))
    except (KeyError, TypeError, ValueError, InvalidOperation, RecursionError) as problem:
        raise FormatError(expected=SCHEMA, found=f"{problem}") from problem
    except EarError as problem:
        if isinstance(problem, FormatError):
            raise
        raise FormatError(expected=SCHEMA, found=f"{problem}") from problem


def _read(manifest: Any) -> Bundled:
    if not isinstance(manifest, dict) or manifest.get("schema") != SCHEMA:
        raise FormatError(expected=SCHEMA, found=f"{manifest!r:.40}")
    part = part_from_json(manifest["part"])
    tempo = Decimal(str(manifest["tempo_bpm"])).quantize(Decimal("0.01"))
    level, count_in = str(manifest["level"]), int(manifest["count_in_bars"])
    if not BPM_MIN <= tempo <= BPM_MAX or level not in LEVELS or not 0 <= count_in <= COUNT_IN_MOST:
        raise FormatError(
            expected="a tempo, a level and a count-in that there are", found=f"{tempo}, {level}, {count_in}"
        )
    title = str(manifest["title"]).strip()
    if not title or not part.notes:
        raise FormatError(expected="an exercise with a title and notes", found="one without")
    return Bundled(
        title=title[:TITLE_MOST],
        instructions=str(manifest.get("instructions", ""))[:INSTRUCTIONS_MOST],
        tempo_bpm=tempo,
        count_in_bars=count_in,
        level=level,
        labels=tuple(k for k in LabelKind if k.value in manifest.get("labels", ())),
        rules=RecordingRules.from_json(manifest.get("rules", {})),
        ladder=Ladder.from_json(manifest.get("ladder", []), part),
        part=part,
        backing=part_from_json(manifest["backing"]) if manifest.get("backing") else None,
    )
