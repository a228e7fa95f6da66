"""Processes are killed at random moments while eight students send takes and hand them in: `./oido bench kills`.

    python -m benches.kills [--kills 60] [--seed 1]

What the server has acknowledged has to be stored, measured and handed in, and nothing of it twice. Runs in an installation of
its own, in the folder OIDO_DATA; it can run in parts, each with its own seed.
"""

import argparse
import sys
import time
from collections import Counter
from random import Random

from benches.installation import VICTIMS, Installation, while_students_work

CALM_S = (0.5, 4.0)
"""Between being ready and the next kill."""


def main(kills: int, seed: int) -> int:
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

    status = while_students_work(seed, kill_at_random)
    print(
        f"kills: {kills} ({', '.join(f'{count} {name}' for name, count in sorted(killed.items()))}), seed {seed}"
    )
    return status


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    chosen = parser.parse_args()
    sys.exit(main(chosen.kills, chosen.seed))
