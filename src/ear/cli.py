"""The core's command line: `measure` and `bench`."""

import argparse
import json
import sys
from pathlib import Path

from ear.assess import Assessment, assess
from ear.errors import EarError
from ear.formats.smf import read_part, read_take
from ear.marking.levels import LEVELS, level_named
from ear.notes import Kind
from ear.report_json import assessment_to_json
from ear.summary import summary

EXIT_BAD_INPUT = 2


def main(arguments: list[str]) -> int:
    parser = argparse.ArgumentParser(prog="oido", description="Measure takes against target parts.")
    commands = parser.add_subparsers(dest="command", required=True)
    measuring = commands.add_parser("measure", help="measure a take against a target part")
    measuring.add_argument("target", type=Path, help="the target part, a Standard MIDI File")
    measuring.add_argument("take", type=Path, help="the take, a Standard MIDI File")
    measuring.add_argument("--kind", choices=[k.value for k in Kind], required=True)
    measuring.add_argument("--count-in", type=_bars, default=0, metavar="BARS",
                           help="bars of the take file before bar 1 (default 0)")  # fmt: skip
    measuring.add_argument("--level", default="building", help=", ".join(LEVELS))
    measuring.add_argument("--json", action="store_true", help="print one JSON object")
    bench = commands.add_parser("bench", help="measure the measuring")
    bench.add_argument("what", choices=["matching"])
    bench.add_argument("folder", type=Path, help="folder of labelled takes")
    options = parser.parse_args(arguments)
    if options.command == "bench":
        return _bench(options.folder)
    return _measure(options)


def _bars(text: str) -> int:
    value = int(text)
    if not 0 <= value <= 16:
        raise argparse.ArgumentTypeError("a count-in is 0 to 16 bars")
    return value


def _measure(options: argparse.Namespace) -> int:
    file = options.target
    try:
        level = level_named(options.level)
        part = read_part(file.read_bytes(), kind=Kind(options.kind))
        file = options.take
        take = read_take(file.read_bytes(), part=part, count_in_bars=options.count_in)
        assessment = assess(part, take, level=level)
    except OSError as problem:
        print(f"oido: {file}: {problem.strerror or problem}", file=sys.stderr)
        return EXIT_BAD_INPUT
    except EarError as problem:
        print(f"oido: {file}: {problem}", file=sys.stderr)
        return EXIT_BAD_INPUT
    print(_printed(assessment, as_json=options.json))
    return 0


def _printed(assessment: Assessment, *, as_json: bool) -> str:
    if as_json:
        return json.dumps(assessment_to_json(assessment), ensure_ascii=False)
    return summary(assessment)


def _bench(folder: Path) -> int:
    from ear.bench.matching import read_truths, report  # only benches need it: keeps measure quick

    for line in report(read_truths(folder)):
        print(line)
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
