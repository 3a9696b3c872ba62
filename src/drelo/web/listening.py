"""The server that listens: how much of what is sent it takes in, before anything of it is kept."""

from __future__ import annotations

import copy
import re
from typing import Any

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server

from drelo.core.picture.decode import MAX_BYTES
from drelo.formats.piece_archive import MAX_BYTES as ARCHIVE_BYTES

# Requests that are answered at the same time; others wait their turn. Pages of a shared workshop that listen for news
# keep a thread each.
THREADS, LISTENING = 64, 96
# Connections at once, those that send nothing or slowly among them; each costs a socket, but no thread.
CONNECTIONS = 2000
# A connection on which nothing comes for so long, s, is closed.
SILENT_SECONDS = 20
# Bytes of an answer that are kept in memory on their way out; a solid is not worth a file on disk.
MEMORY_OF_ANSWER = 64 * 2**20
# Room for the form round the largest file.
FORM_BYTES = 64 * 2**10
# Bytes of a request's body: with an archive, with files, with edits, and without any.
WITH_ARCHIVE, WITH_FILES, WITH_EDITS, PLAIN = ARCHIVE_BYTES + FORM_BYTES, MAX_BYTES + FORM_BYTES, 12 * 2**20, 2 * 2**20
_FILES = re.compile(
    r"/api/(pieces/from-picture|pieces/from-recipe|motifs/file|pieces/[^/]+/(picture|drawing|drawing/look|font))"
)
_EDITS = re.compile(r"/api/(motifs|pieces/[^/]+/(edits|preview|solid|many/.*))")


def most_bytes(path: str) -> int:
    """How large a body may be that is sent to an address."""
    if path == "/api/pieces/from-archive":
        return WITH_ARCHIVE
    if _FILES.fullmatch(path):
        return WITH_FILES
    return WITH_EDITS if _EDITS.fullmatch(path) else PLAIN


class Parser(HTTPRequestParser):
    """Reads a request, and stops where its body is larger than its address takes."""

    adj: Any
    path: str

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        # The parser holds the body against these, whether its length is stated or it comes in chunks.
        self.adj = copy.copy(self.adj)
        self.adj.max_request_body_size = most_bytes(self.path) + 1


class Channel(HTTPChannel):
    parser_class = Parser


def listening(app: Flask, port: int, address: str = "127.0.0.1", shared: bool = False) -> Any:
    """A server, ready to run; address: that it listens at. shared: whether pages may listen for news."""
    server: Any = create_server(
        app,
        host=address,
        port=port,
        threads=THREADS + LISTENING * shared,
        ident="drelo",
        outbuf_overflow=MEMORY_OF_ANSWER,
        max_request_body_size=WITH_FILES + 1,
        connection_limit=CONNECTIONS,
        channel_timeout=SILENT_SECONDS,
        cleanup_interval=5,
        asyncore_use_poll=True,
        # So that it is noticed when who asked has gone.
        channel_request_lookahead=1,
    )
    server.channel_class = Channel
    return server
