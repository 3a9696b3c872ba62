"""Figures of a running Drelo in the open text format that monitors read, for this machine only."""

from __future__ import annotations

import time
from ipaddress import ip_address

from flask import Flask, Response, abort, g, request
from prometheus_client import CollectorRegistry, Counter, Gauge, Histogram
from prometheus_client.exposition import CONTENT_TYPE_LATEST, generate_latest

from drelo.web.bench import bench

BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 30, 120)


def install(app: Flask) -> None:
    """Count requests and their time by route, and serve /metrics."""
    registry = CollectorRegistry()
    answered = Counter("drelo_requests_total", "Requests answered.", ("route", "method", "status"), registry=registry)
    seconds = Histogram("drelo_request_seconds", "Time of a request.", ("route",), registry=registry, buckets=BUCKETS)
    workers = Gauge("drelo_workers_ready", "Workers that can take a job.", registry=registry)
    running = Gauge("drelo_jobs_running", "Jobs at work.", registry=registry)
    waiting = Gauge("drelo_jobs_waiting", "Jobs that wait for a worker.", registry=registry)
    longest = Gauge("drelo_jobs_longest_wait_seconds", "How long the oldest waiting job has waited.", registry=registry)
    database = Gauge("drelo_database_up", "Whether the database answers.", registry=registry)
    free = Gauge("drelo_disk_free_bytes", "Free room where the data lies.", registry=registry)

    @app.before_request
    def begin() -> None:
        g.begun = time.perf_counter()

    @app.after_request
    def count(response: Response) -> Response:
        # A route, not an address: addresses would be without number.
        route = request.url_rule.rule if request.url_rule else "none"
        answered.labels(route, request.method, str(response.status_code)).inc()
        seconds.labels(route).observe(time.perf_counter() - g.get("begun", time.perf_counter()))
        return response

    @app.get("/metrics")
    def metrics() -> Response:
        if not ip_address(request.remote_addr or "0.0.0.0").is_loopback:
            abort(403, "Figures are for this machine only.")
        pool = bench().pool.state()
        workers.set(pool.ready)
        running.set(pool.running)
        waiting.set(pool.waiting)
        longest.set(pool.longest)
        database.set(bench().pieces.answers())
        free.set(bench().space.free() or 0)
        response = Response(generate_latest(registry))
        response.headers["Content-Type"] = CONTENT_TYPE_LATEST
        return response
