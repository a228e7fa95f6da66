"""Figures in the open text format that monitoring reads: of requests, by django-prometheus, and of what this installation holds."""

import os
from collections.abc import Iterator

from django.db import DatabaseError
from django.db.models import Count
from prometheus_client import CONTENT_TYPE_LATEST, REGISTRY, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from oido.jobs.models import Job
from oido.operations.helpers import count_alive
from oido.operations.models import Helper
from oido.takes.models import Take

CONTENT_TYPE = CONTENT_TYPE_LATEST
FOLDER = "PROMETHEUS_MULTIPROC_DIR"
"""Where the processes of a server add up what each of them counts; named in the environment before the library is loaded."""


class InstallationCollector(Collector):
    """What is asked of the database each time. Where that is away, only what the processes counted is there."""

    def collect(self) -> Iterator[Metric]:
        try:
            yield from list(_installation())
        except DatabaseError:
            return


def _installation() -> Iterator[Metric]:
    jobs = GaugeMetricFamily("oido_jobs", "Jobs by kind and state", labels=["kind", "state"])
    counted = Job.everywhere.order_by().values_list("kind", "state").annotate(Count("pk"))
    for kind, state, count in counted:
        jobs.add_metric([kind, state], count)
    yield jobs
    helpers = GaugeMetricFamily("oido_helpers", "Workers and schedulers that are alive", labels=["kind"])
    for name in Helper.Kind.values:
        helpers.add_metric([name], count_alive(name))
    yield helpers
    yield GaugeMetricFamily("oido_takes", "Takes that are stored", value=Take.everywhere.count())
    waiting = Take.everywhere.filter(measure_after__isnull=False).count()
    yield GaugeMetricFamily("oido_takes_unmeasured", "Takes that wait to be measured", value=waiting)


def metrics() -> bytes:
    """Return all figures as text."""
    requests = REGISTRY
    if os.environ.get(FOLDER):
        requests = CollectorRegistry()
        MultiProcessCollector(requests)  # type: ignore[no-untyped-call]
    installation = CollectorRegistry()
    installation.register(InstallationCollector())
    return bytes(generate_latest(requests) + generate_latest(installation))
