"""What the server does when one of its processes ends: its counts stay in the sum, and its gauges go."""

import os
from typing import Any

from prometheus_client.multiprocess import mark_process_dead


def child_exit(server: Any, worker: Any) -> None:
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
