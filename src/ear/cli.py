"""The core's command line: `measure` and `read`."""

import argparse
import json
import signal
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

from ear.assess import Assessment, assess
from ear.criteria.levels import DEFAULT_LEVEL, LEVELS, Level, level_named
from ear.errors import EarError
from ear.formats.free_json import read_free_rules
from ear.formats.kit_json import read_kit
from ear.formats.smf_parts import read_part, read_take
from ear.notes import STANDARD_KIT, Kind, KitMap
from ear.report_json import DEFAULT_SCHEMA, SCHEMAS, assessment_to_json
from ear.summary import summary

EXIT_BAD_INPUT = 2
MAX_COUNT_IN = 16

T = TypeVar("T")


def main(arguments: list[str]) -> int:
    """Run `measure` or `read`, and return the exit status as a number. Errors of input go to standard error."""
    options = _parser().parse_args(arguments)
    if options.command == "read":
        return _read_file(options)
    try:
        kit = _read(options.kit, read_kit) if options.kit else STANDARD_KIT
    except BadFile as problem:
        return _complain(problem.file, problem.reason)
    if options.batch:
        return _batch(options, kit)
    return _measure(options, kit)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="oido", description="Measure takes against target parts.")
    commands = parser.add_subparsers(dest="command", required=True)
    measuring = commands.add_parser("measure", help="measure a take against a target part")
    measuring.add_argument("target", type=Path, nargs="?", help="the target part, a Standard MIDI File")
    measuring.add_argument("take", type=Path, nargs="?", help="the take, a Standard MIDI File")
    measuring.add_argument("--kind", choices=[k.value for k in Kind])
    measuring.add_argument(
        "--count-in", type=_bars, default=0, metavar="BARS", help="bars of the take file before bar 1"
    )
    measuring.add_argument("--level", default=DEFAULT_LEVEL.key, help=", ".join(LEVELS))
    measuring.add_argument(
        "--kit",
        type=Path,
        metavar="FILE",
        help="of drums: which numbers are which lane, a JSON file (oido.kit/1)",
    )
    measuring.add_argument(
        "--no-click", action="store_true", help="the take was played without a click: its own pulse counts"
    )
    measuring.add_argument(
        "--free",
        type=Path,
        metavar="RULES",
        help="of a free exercise: its rules, a JSON file (oido.free/1), instead of a target part",
    )
    measuring.add_argument("--json", action="store_true", help="print one JSON object")
    measuring.add_argument(
        "--schema", type=int, choices=list(SCHEMAS), default=DEFAULT_SCHEMA, help="of the JSON; 1 without it"
    )
    measuring.add_argument(
        "--batch",
        type=Path,
        metavar="LIST",
        help="measure many: a JSON line each with target, take, kind, count_in",
    )
    read_command = commands.add_parser("read", help="say what is read in a file, or write it as another")
    read_command.add_argument(
        "file",
        type=Path,
        help="a Standard MIDI File, MusicXML, plain or compressed, or a part as text (.txt)",
    )
    read_command.add_argument(
        "--kind", choices=[k.value for k in Kind], help="without it what most of the file is"
    )
    read_command.add_argument(
        "--respell", action="store_true", help="throw the file's names of notes away and name them anew"
    )
    read_command.add_argument("--json", action="store_true", help="print one JSON object")
    read_command.add_argument(
        "--write",
        type=Path,
        metavar="OUT",
        help="write what was read, by the suffix of OUT: .musicxml, .mxl, .mid or .txt",
    )
    return parser


def _bars(text: str) -> int:
    if not text.isdigit() or int(text) > MAX_COUNT_IN:
        raise argparse.ArgumentTypeError(f"a count-in is 0 to {MAX_COUNT_IN} bars, not {text!r}")
    return int(text)


def _complain(where: object, problem: object) -> int:
    print(f"oido: {where}: {problem}", file=sys.stderr)
    return EXIT_BAD_INPUT


def _measure(options: argparse.Namespace, kit: KitMap) -> int:
    try:
        level = level_named(options.level)
    except EarError as problem:
        return _complain("--level", problem)
    setting = Setting(level=level, kit=kit, has_click=not options.no_click)
    try:
        if options.free is not None:
            if options.target is None or options.take is not None:
                return _complain("measure", "--free RULES needs one TAKE")
            assessment = _assess_free(options.free, options.target, options.count_in, setting)
        elif options.target is None or options.take is None or options.kind is None:
            return _complain(
                "measure", "a TARGET, a TAKE and --kind are needed, --free RULES or --batch LIST"
            )
        else:
            assessment = _assess(options.target, options.take, options.kind, options.count_in, setting)
    except BadFile as problem:
        return _complain(problem.file, problem.reason)
    print(_json(assessment, options.schema) if options.json else summary(assessment))
    return 0


def _read_file(options: argparse.Namespace) -> int:
    # Only this needs notation: imported here, it costs `measure` nothing.
    from ear.file_report import opened_text, read, read_summary, read_to_json
    from ear.formats.importing import open_file
    from ear.formats.writing import SUFFIXES, written_file

    kind = Kind(options.kind) if options.kind else None
    out: Path | None = options.write
    if out is not None and out.suffix.lower() not in SUFFIXES:
        return _complain(out, f"OUT ends with one of {', '.join(SUFFIXES)}")
    is_text = options.file.suffix.lower() == ".txt"
    try:
        report = _read(
            options.file,
            lambda data: read(
                opened_text(data, kind=kind) if is_text else open_file(data),
                file_name=options.file.name, kind=kind, respell=options.respell,
            ),
        )  # fmt: skip
    except BadFile as problem:
        return _complain(problem.file, problem.reason)
    if out is not None:
        try:
            out.write_bytes(written_file(report.part, suffix=out.suffix.lower(), title=report.title))
        except OSError as problem:
            return _complain(out, problem.strerror)
    elif not options.json:
        print(read_summary(report))
    if options.json:
        print(json.dumps(read_to_json(report), ensure_ascii=False))
    return 0


class BadFile(Exception):
    """A file of a pair cannot be used."""

    def __init__(self, file: Path, reason: str) -> None:
        super().__init__(f"{file}: {reason}")
        self.file, self.reason = file, reason


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """By what takes are measured, besides their parts."""

    level: Level
    kit: KitMap
    has_click: bool = True


def _assess(target: Path, take: Path, kind: str, count_in: int, setting: Setting) -> Assessment:
    part = _read(target, lambda data: read_part(data, kind=Kind(kind)))
    played = _read(take, lambda data: read_take(data, part=part, count_in_bars=count_in))
    return assess(part, played, level=setting.level, kit=setting.kit, has_click=setting.has_click)


def _assess_free(rules: Path, take: Path, count_in: int, setting: Setting) -> Assessment:
    page, spec = _read(rules, read_free_rules)
    played = _read(take, lambda data: read_take(data, part=page, count_in_bars=count_in))
    return assess(
        page, played, level=setting.level, kit=setting.kit, has_click=setting.has_click,
        free=spec.exercise(page, has_click=setting.has_click),
    )  # fmt: skip


def _read(file: Path, parse: Callable[[bytes], T]) -> T:
    try:
        return parse(file.read_bytes())
    except OSError as problem:
        raise BadFile(file, problem.strerror or str(problem)) from problem
    except EarError as problem:
        raise BadFile(file, str(problem)) from problem


def _json(assessment: Assessment, schema: int) -> str:
    return json.dumps(assessment_to_json(assessment, schema=schema), ensure_ascii=False)


def _batch(options: argparse.Namespace, kit: KitMap) -> int:
    """A JSON line for each line of the list; a broken one gives {"error": …} and is passed over.

    Paths are taken from the list's own folder unless they are absolute.
    """
    file: Path = options.batch
    try:
        level = level_named(options.level)
        lines = file.read_text().splitlines()
    except (EarError, OSError, UnicodeDecodeError) as problem:
        return _complain(file, problem)
    setting = Setting(level=level, kit=kit, has_click=not options.no_click)
    for number, line in enumerate(lines, start=1):
        if line.strip():
            print(_batch_line(file.parent, line, number, options.schema, setting), flush=True)
    return 0


def _batch_line(folder: Path, line: str, number: int, schema: int, setting: Setting) -> str:
    try:
        wanted = json.loads(line)
        target, take = folder / wanted["target"], folder / wanted["take"]
        count_in = _bars(str(wanted.get("count_in", 0)))
        return _json(_assess(target, take, wanted["kind"], count_in, setting), schema)
    except KeyError as problem:
        reason = f"{problem} is missing"
    except (BadFile, EarError, TypeError, ValueError, argparse.ArgumentTypeError) as problem:
        reason = str(problem)
    return json.dumps({"error": reason, "line": number}, ensure_ascii=False)


if __name__ == "__main__":
    # A reader that has seen enough, `head` say, ends the writer quietly.
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    sys.exit(main(sys.argv[1:]))
