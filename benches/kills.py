"""Processes are killed at random moments while a class works: `./oido bench kills`.

    python -m benches.kills [--kills 1000] [--seed 1] [--results FILE]

What the server has acknowledged has to be stored, measured, handed in, released and imported, and nothing of it twice. The kills
are made in parts, each in an installation of its own. With a file of results, a run that was broken off goes on with the
parts that are left, and the sum of all parts is printed.
"""

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from random import Random
from typing import Any

from benches.installation import VICTIMS, Installation, while_class_works
from benches.restoring import restores_killed

BROWSER, RESTORE = "browser", "restore"
KILLS_OF_A_PART = 20
KINDS = ("processes",) * 8 + (BROWSER, RESTORE)
"""What the parts kill, in turn."""
CALM_S = (0.5, 4.0)
"""Between being ready and the next kill."""


def processes_killed(kills: int, seed: int) -> dict[str, Any]:
    """Kill server, worker, database or everything while a class works; return what came of it."""
    random = Random(seed)
    killed: Counter[str] = Counter()

    def kill_at_random(installation: Installation) -> None:
        for _ in range(kills):
            time.sleep(random.uniform(*CALM_S))
            victim = random.choice(VICTIMS)
            installation.kill(victim, random)
            killed[victim] += 1
            installation.recover()
        time.sleep(CALM_S[1])

    return asdict(while_class_works(seed, kill_at_random)) | {"killed": dict(killed)}


def browsers_killed(kills: int, seed: int) -> dict[str, Any]:
    # Playwright takes a while to import, and the other parts need none.
    from benches.browser_kills import browsers_killed as in_browser

    return in_browser(kills, seed)


PARTS: dict[str, Callable[[int, int], dict[str, Any]]] = {
    "processes": processes_killed, BROWSER: browsers_killed, RESTORE: restores_killed,
}  # fmt: skip


def in_parts(kills: int, seed: int, results: Path) -> int:
    """Make the parts that the file has no result of, then print the sum of all. 1 where anything is wrong."""
    made = [json.loads(line) for line in results.read_text().splitlines()] if results.exists() else []
    is_made = {part["seed"] for part in made}
    for number in range(-(-kills // KILLS_OF_A_PART)):
        part_seed = seed + number
        if part_seed in is_made:
            continue
        count = min(KILLS_OF_A_PART, kills - number * KILLS_OF_A_PART)
        with tempfile.TemporaryDirectory(prefix="oido-kills-") as folder:
            answer = Path(folder) / "result.json"
            words = [
                "--kills",
                str(count),
                "--seed",
                str(part_seed),
                "--part",
                KINDS[number % len(KINDS)],
                "--results",
                str(answer),
            ]
            env = {**os.environ, "OIDO_DATA": str(Path(folder) / "data")}
            subprocess.run([sys.executable, "-m", "benches.kills", *words], env=env, check=True)
            part = json.loads(answer.read_text())
        made.append(part)
        with results.open("a") as file:
            file.write(json.dumps(part) + "\n")
        print(f"part {number + 1}: {_described(part['killed'])}; {_described(part['counts'])}", flush=True)
    return print_sum(made)


def print_sum(parts: list[dict[str, Any]]) -> int:
    killed, counts, faults = Counter[str](), Counter[str](), Counter[str]()
    for part in parts:
        killed.update(part["killed"])
        counts.update(part["counts"])
        faults.update({name: len(examples) for name, examples in part["faults"].items()})
    print(f"{killed.total()} kills: {_described(killed)}\n{_described(counts)}")
    for part in parts:
        for name, examples in part["faults"].items():
            if examples:
                print(f"seed {part['seed']}: {name}: {examples[:5]}")
    print(f"faults: {faults.total()}")
    return int(faults.total() > 0)


def _described(counts: dict[str, int]) -> str:
    return ", ".join(f"{name} {count}" for name, count in sorted(counts.items()))


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--part", choices=PARTS, help="make one part alone, of this kind")
    parser.add_argument("--results", type=Path, default=Path("kills.jsonl"), help="of all parts, a line each")
    chosen = parser.parse_args()
    if chosen.part:
        outcome = PARTS[chosen.part](chosen.kills, chosen.seed) | {"seed": chosen.seed, "part": chosen.part}
        chosen.results.write_text(json.dumps(outcome, default=str))
        sys.exit(0)
    sys.exit(in_parts(chosen.kills, chosen.seed, chosen.results))
