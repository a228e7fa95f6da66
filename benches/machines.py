"""Two machines serve fifty students, and one of each kind of process is killed: `./oido bench machines [--students 50]`.

    python -m benches.machines [--students 50] [--seed 1]

Two web processes and two workers with their schedulers stand behind Debian's nginx, as on two machines with one database. While
students send takes and hand them in, the first machine's web process and worker are killed, stay away for a while, and come back.
What was acknowledged has to be stored, measured and handed in, and nothing of it twice; while one machine is away, the other one
has to go on taking them.
"""

import argparse
import os
import signal
import sys
import tempfile
import time
import urllib.request
from contextlib import suppress
from pathlib import Path

from benches.at_work import People, compare, make_class, working
from benches.proxy import NAME, Nginx
from launch.processes import end, schedule, serve, work_in_background
from launch.supervising import listen

ASSIGNMENTS = 3
CALM_S, AWAY_S = 8.0, 15.0


class Machine:
    """A web process, a worker and a scheduler, as on a machine of its own."""

    def __init__(self, env: dict[str, str]) -> None:
        self.env = env
        self.listener = listen(0)
        self.port: int = self.listener.getsockname()[1]
        self.scheduler = schedule(env)
        self.begin()

    def begin(self) -> None:
        self.web, self.worker = serve(self.listener, self.env), work_in_background(self.env)
        self._wait_until_served()

    def _wait_until_served(self) -> None:
        """Ask as the proxy does. Raises RuntimeError where the web process ends instead."""
        as_proxied = {"Host": NAME, "X-Forwarded-Proto": "https"}
        page = urllib.request.Request(f"http://127.0.0.1:{self.port}/sign-in/", headers=as_proxied)
        while self.web.poll() is None:
            with suppress(OSError), urllib.request.urlopen(page, timeout=5):
                return
            time.sleep(0.2)
        raise RuntimeError("the web process ended at once")

    def kill(self) -> None:
        """Kill the web process with all its workers, and the worker, without warning."""
        for process in (self.web, self.worker):
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()

    def stop(self) -> None:
        for process in (self.web, self.worker, self.scheduler):
            end(process)


def acknowledged(people: People) -> int:
    return sum(len(student.sent) for student in people.students)


def main(count: int, seed: int) -> int:
    import django

    django.setup()
    from oido.people.scope import Scope, within

    port = int(os.environ["OIDO_ADDRESS"].rsplit(":", 1)[1])
    machines = [Machine(dict(os.environ)) for _ in range(2)]
    first, second = machines
    try:
        with tempfile.TemporaryDirectory(prefix="oido-nginx-") as folder, within(Scope.EVERYWHERE):
            proxy = Nginx(Path(folder), [f"127.0.0.1:{machine.port}" for machine in machines], port=port)
            try:
                people = make_class(
                    f"https://{NAME}:{port}", seed, students=count, assignments=ASSIGNMENTS, trust=proxy.trust
                )
                with working(people):
                    time.sleep(CALM_S)
                    first.kill()
                    before, begun = acknowledged(people), time.monotonic()
                    time.sleep(AWAY_S)
                    by_one, took_s = acknowledged(people) - before, time.monotonic() - begun
                    first.begin()
                    time.sleep(CALM_S)
                    second.kill()
                    time.sleep(CALM_S)
                    second.begin()
                outcome = compare(people)
            finally:
                proxy.stop()
    finally:
        for machine in machines:
            machine.stop()
    print("\n".join(outcome.lines))
    print(f"while the first machine was away for {took_s:.0f} s, the second acknowledged {by_one} takes")
    return int(not outcome.is_kept or not by_one)


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--students", type=int, default=50)
    parser.add_argument("--seed", type=int, default=1)
    chosen = parser.parse_args()
    sys.exit(main(chosen.students, chosen.seed))
