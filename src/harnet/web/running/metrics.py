"""`/metrics`: requests, tasks, queue and workers, in the text format of Prometheus."""

import os
import time
from collections.abc import Iterable

from flask import Blueprint, Flask, Response, g, request
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, Counter, Histogram
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.exposition import generate_latest
from prometheus_client.multiprocess import MultiProcessCollector
from prometheus_client.registry import Collector

from harnet.studio.running.figures import tasks_ended, work_figures, workers_alive
from harnet.web.common.shared import studio

blueprint = Blueprint("metrics", __name__, url_prefix="/metrics")
_FOLDER = "PROMETHEUS_MULTIPROC_DIR"
"""Where several processes keep their counts; `harnet serve` makes it."""
_own = CollectorRegistry()
_REQUESTS = Counter(
    "harnet_requests_total", "Requests answered.", ("area", "method", "status"), registry=_own
)
_SECONDS = Histogram("harnet_request_seconds", "How long requests took.", ("area",), registry=_own)


@blueprint.get("")
def show() -> Response:
    """The figures of all processes, and those of the database."""
    registry = CollectorRegistry()
    if os.environ.get(_FOLDER):
        MultiProcessCollector(registry)  # type: ignore[no-untyped-call]
    else:
        registry.register(_Own())
    registry.register(_OfStudio())
    return Response(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)


def count_requests(app: Flask) -> None:
    """Has every request counted, by area, method and status."""

    @app.after_request
    def count(response: Response) -> Response:
        area = request.blueprint or "none"
        _REQUESTS.labels(area, request.method, str(response.status_code)).inc()
        if "begun" in g:
            _SECONDS.labels(area).observe(time.perf_counter() - g.begun)
        return response


class _Own(Collector):
    """The counts of this process."""

    def collect(self) -> Iterable[Metric]:
        """All of them."""
        return _own.collect()


class _OfStudio(Collector):
    """What the database knows: the same, whichever process is asked."""

    def collect(self) -> Iterable[Metric]:
        """Work that waits and is done, how long the oldest waits, workers, tasks that ended."""
        with studio().session() as session:
            work, workers = work_figures(session), workers_alive(session)
            ended = tasks_ended(session)
        rows = GaugeMetricFamily("harnet_work", "Work there is.", labels=("kind", "state"))
        age = GaugeMetricFamily(
            "harnet_queue_oldest_seconds", "How long the oldest has waited.", labels=("kind",)
        )
        for one in work:
            rows.add_metric((one.kind, "waiting"), one.waiting)
            rows.add_metric((one.kind, "working"), one.working)
            age.add_metric((one.kind,), one.oldest_seconds)
        tasks = GaugeMetricFamily(
            "harnet_tasks_ended",
            "Tasks that ended and are still listed.",
            labels=("task", "status"),
        )
        for (name, status), count in ended.items():
            tasks.add_metric((name, status), count)
        alive = GaugeMetricFamily("harnet_workers", "Workers that gave a sign of late.", workers)
        return rows, age, tasks, alive
