"""The table of limits: how often a person, or an address, may ask for what costs the server something.

Each limit is far above what anyone does by hand. It stops a script, or a browser that repeats a request without end.
"""

from dataclasses import dataclass
from datetime import timedelta

MEGABYTE = 1_000_000
HOUR, DAY = timedelta(hours=1), timedelta(days=1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Limit:
    """At most so many requests, and so many bytes sent, in each period."""

    name: str
    requests: int
    bytes: int | None = None
    period: timedelta
    names: frozenset[str]
    """Of the addresses that it counts."""
    methods: frozenset[str] = frozenset({"POST"})


def _limit(name: str, names: str, **values: object) -> Limit:
    return Limit(name=name, names=frozenset(names.split()), **values)  # type: ignore[arg-type]


LIMITS = (
    # A school of two thousand may sign in from one address between two lessons.
    _limit("sign-in", "sign-in second-factor", requests=3_000, period=HOUR),
    _limit("code", "slip choose-password enter-code join-class invitation set-up", requests=1_000, period=HOUR),
    # Each of these sends a letter.
    _limit("letter", "ask-reset account remind ask-again send-again add-person", requests=200, period=HOUR),
    _limit("take", "upload-take upload-pass", requests=3_000, bytes=500 * MEGABYTE, period=DAY),
    _limit("file", "new-exercise send-list send-booklet elsewhere rule", requests=500, bytes=500 * MEGABYTE, period=DAY),
    _limit(
        "export",
        "export report-export gradebook-export take-export stand-file booklet-bundle booklet-paper term-report term-reports "
        "export-own export-person trail-csv class-slips person-slip",
        requests=400, period=HOUR, methods=frozenset({"GET", "POST"}),
    ),
    # Twenty a second for a minute is more than a key that is held down.
    _limit("bench", "use-tool step grid set-labels keep copy-tool copy-step", requests=1_200, period=timedelta(minutes=1)),
)  # fmt: skip


def limit_of(name: str | None, method: str | None) -> Limit | None:
    """Return the limit that counts requests to this address."""
    return next((limit for limit in LIMITS if name in limit.names and method in limit.methods), None)
