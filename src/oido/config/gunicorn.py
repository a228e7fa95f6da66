"""How the server shares its work among its processes, and what it does when one of them ends."""

import os
from typing import Any

from prometheus_client.multiprocess import mark_process_dead

worker_connections = 64
"""Of each process. With more, one process accepts everything that arrives in a rush, and the others have nothing to do."""


def child_exit(server: Any, worker: Any) -> None:
    """Keep the counts of a process that has ended in the sum, and drop its gauges."""
    if os.environ.get("PROMETHEUS_MULTIPROC_DIR"):
        mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]
