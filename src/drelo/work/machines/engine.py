"""The engine that carries jobs between machines: Celery over Redis, set up for jobs that somebody waits for.

A job is worth nothing once nobody waits for it, so nothing is kept on disk: who waits sends it again. What travels is
pickled, and signed with a key that all machines of a workshop hold: the broker alone can make no machine do anything.
"""

from __future__ import annotations

import hashlib
import hmac
import pickle
import ssl
from collections.abc import Callable
from pathlib import Path
from typing import Any

from celery import Celery
from kombu.serialization import register

from drelo.core.errors import Refusal

SHORTEST_KEY = 32
# What is carried, as the engine names it.
RUN, REPORT, STOP = "drelo.run", "drelo_report", "drelo_stop"
# A result that nobody fetched goes after so long, s.
KEPT = 60
# The broker is asked for a sign of life so often, s, and is away when it does not answer for so long.
PULSE, SILENCE = 5, 10
# Connections that a web process keeps to the broker.
CONNECTIONS = 16
_SIGNED = "drelo-signed"
_SIGNATURE = hashlib.sha256().digest_size


class Forged(ValueError):
    """What came was not signed with the key of this workshop."""


def signing(key: str) -> tuple[Callable[[Any], bytes], Callable[[bytes], Any]]:
    """How to write and how to read what travels. Without the signature nothing is unpickled, and Forged raised."""
    secret = key.encode()

    def signature(data: bytes | memoryview) -> bytes:
        return hmac.new(secret, data, hashlib.sha256).digest()

    def write(value: Any) -> bytes:
        data = pickle.dumps(value, protocol=pickle.HIGHEST_PROTOCOL)
        return signature(data) + data

    def read(sent: bytes) -> Any:
        data = memoryview(sent)
        if not hmac.compare_digest(signature(data[_SIGNATURE:]), bytes(data[:_SIGNATURE])):
            raise Forged("Not signed with the key of this workshop.")
        return pickle.loads(data[_SIGNATURE:])

    return write, read


def engine(address: str, key: str, certificate: Path | None = None) -> Celery:
    """The engine at a broker. certificate: of the authority that vouches for it, where the address begins with rediss.

    Raises Refusal where key or address cannot be.
    """
    if len(key) < SHORTEST_KEY:
        raise Refusal("machines.short-key", least=SHORTEST_KEY)
    if not address.startswith(("redis://", "rediss://")):
        raise Refusal("machines.address")
    write, read = signing(key)
    register(  # type: ignore[no-untyped-call]
        _SIGNED, write, read, content_type="application/x-drelo-signed", content_encoding="binary"
    )
    # Over the protocol's third version the client makes a text of every result that comes, megabytes long, for its log.
    backend = f"{address}{'&' if '?' in address else '?'}protocol=2"
    app = Celery("drelo", broker=address, backend=backend)
    app.conf.update(
        task_serializer=_SIGNED,
        result_serializer=_SIGNED,
        accept_content=[_SIGNED],
        result_accept_content=[_SIGNED],
        result_expires=KEPT,
        task_create_missing_queues=True,
        worker_enable_remote_control=True,
        worker_prefetch_multiplier=1,
        worker_hijack_root_logger=False,
        worker_redirect_stdouts=False,
        worker_send_task_events=False,
        broker_connection_retry_on_startup=True,
        broker_connection_timeout=SILENCE,
        broker_pool_limit=CONNECTIONS,
        broker_transport_options={
            "socket_timeout": SILENCE,
            "socket_connect_timeout": SILENCE,
            "socket_keepalive": True,
            "health_check_interval": PULSE,
        },
        redis_socket_timeout=SILENCE,
        redis_socket_connect_timeout=SILENCE,
        redis_socket_keepalive=True,
        redis_backend_health_check_interval=PULSE,
        redis_retry_on_timeout=True,
    )
    if address.startswith("rediss://"):
        trust = {"ssl_cert_reqs": ssl.CERT_REQUIRED, "ssl_ca_certs": str(certificate) if certificate else None}
        app.conf.update(broker_use_ssl=trust, redis_backend_use_ssl=trust)
    return app


def queue_of(machine: str) -> str:
    """Where jobs for a machine wait."""
    return f"drelo.{machine}"


def address_of(machine: str) -> str:
    """How the engine calls a machine."""
    return f"drelo@{machine}"
