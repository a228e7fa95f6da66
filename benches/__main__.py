"""`python -m benches NAME`: a bench of the core, or of the application's answers, which needs settings and a database."""

import argparse
import signal
import sys
from collections.abc import Iterable
from importlib import import_module
from pathlib import Path

APPLICATION = ("editing", "lists", "report", "requests", "scale")
CORE = ("fuzz", "habits", "listening", "marks", "matching", "speed")


def main(words: list[str]) -> int:
    """Run a bench and return the exit status."""
    parser = argparse.ArgumentParser(prog="./oido bench", description=__doc__)
    parser.add_argument("bench", choices=[*CORE, *APPLICATION])
    parser.add_argument(
        "folder",
        type=Path,
        nargs="?",
        help="of habits: takes with a teacher's mark and first words; of matching: labelled takes, its own without it",
    )
    parser.add_argument("--minutes", type=float, default=1.0, help="of fuzz: how long")
    parser.add_argument("--seed", type=int, default=0, help="of fuzz: the number of the first input")
    parser.add_argument(
        "--against", metavar="COMMIT", help="of speed: measure this commit, too, in the same run"
    )
    parser.add_argument("--takes", type=int, help="of scale: how many there are")
    options = parser.parse_args(words)
    if options.bench in APPLICATION:
        return application(options.bench, **({"takes": options.takes} if options.takes else {}))
    if options.folder is not None and not options.folder.is_dir():
        print(f"oido: {options.folder}: no such folder", file=sys.stderr)
        return 2
    if options.bench == "habits" and options.folder is None:
        print("oido: habits needs the folder of its takes", file=sys.stderr)
        return 2
    for line in core(options):
        print(line, flush=True)
    return 0


def core(options: argparse.Namespace) -> Iterable[str]:
    """Return the report of a bench of the core, line by line."""
    bench = import_module(f"benches.{options.bench}")
    report: Iterable[str]
    if options.bench == "fuzz":
        report = bench.report(options.minutes, seed=options.seed)
    elif options.bench == "habits":
        report = bench.report(options.folder)
    elif options.bench == "speed" and options.against:
        report = bench.report_against(options.against)
    elif options.bench != "matching":
        report = bench.report()
    else:
        takes = (
            bench.read_truths(options.folder)
            if options.folder
            else import_module("benches.cases").make_cases()
        )
        report = bench.report(takes)
    return report


def application(name: str, **options: int) -> int:
    """Run a bench of the application."""
    import django
    from django.core.management import call_command

    django.setup()
    call_command(import_module(f"benches.{name}").Command(), **options)
    return 0


if __name__ == "__main__":
    # A reader that has seen enough, `head` say, ends the writer quietly.
    signal.signal(signal.SIGPIPE, signal.SIG_DFL)
    sys.exit(main(sys.argv[1:]))
