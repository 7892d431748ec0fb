"""The web server's worker, with limits on how long a client may take to send and to listen: threads are few, and one that waits
for a client serves nobody."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from gunicorn.workers.gthread import ThreadWorker  # type: ignore[import-untyped]

HEADER_SECONDS = 10.0
"""For the handshake of TLS and all headers together."""
BODY_SECONDS, BODY_BYTES_A_SECOND = 20.0, 4_000
"""A body may take so long, and longer by as much as came: slower than this no phone is that sends at all."""
LISTEN_SECONDS = 60.0
"""For each piece of an answer to be taken."""


class TimedWorker(ThreadWorker):  # type: ignore[misc]  # its library has no types
    """gunicorn's worker of threads, with these limits."""

    def handle(self, conn: Any) -> Any:
        """One request, on a thread of the pool; whoever does not get through its headers is cut off."""
        conn.cut_off = threading.Timer(HEADER_SECONDS, _cut_off, [conn])
        conn.cut_off.daemon = True
        conn.cut_off.start()
        try:
            return super().handle(conn)
        finally:
            conn.cut_off.cancel()

    def handle_request(self, req: Any, conn: Any) -> Any:
        """Its headers are here; from now on its body is waited for, and its answer is taken, within limits of their own."""
        conn.cut_off.cancel()
        unreader = conn.parser.unreader
        own = unreader.chunk
        unreader.chunk = _bounded(conn.sock, own)
        conn.sock.settimeout(LISTEN_SECONDS)
        try:
            return super().handle_request(req, conn)
        finally:
            unreader.chunk = own


def _cut_off(conn: Any) -> None:
    with suppress(OSError):  # it may have gone by itself
        socket.socket.shutdown(conn.sock, socket.SHUT_RDWR)


def _bounded(sock: socket.socket, chunk: Callable[..., bytes]) -> Callable[..., bytes]:
    """Reading pieces of a body, as long as it comes fast enough; OSError when it does not."""
    begun, come = time.monotonic(), 0

    def piece(size_hint: int | None = None) -> bytes:
        nonlocal come
        left = begun + BODY_SECONDS + come / BODY_BYTES_A_SECOND - time.monotonic()
        if left <= 0:
            raise TimeoutError("the body of a request comes too slowly")
        sock.settimeout(left)
        try:
            data = chunk(size_hint)
        finally:
            sock.settimeout(LISTEN_SECONDS)
        come += len(data)
        return data

    return piece
