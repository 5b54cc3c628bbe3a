"""Sockets to listen on, and room for their connections."""

from __future__ import annotations

import socket

from neatpatch.api.common.connections import BoundedListener, Bounds
from neatpatch.core.common.errors import NeatPatchError

_WANTED_DESCRIPTORS = 4096
"""Connections, files and databases of both doors take about a thousand at their bounds."""


class CannotServeError(NeatPatchError):
    """The address is not to be had, or not to be used."""


def raise_descriptor_limit() -> None:
    """Let this process hold as many files and connections as its bounds allow."""
    try:
        import resource
    except ImportError:  # a system without such limits
        return
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = hard if hard != resource.RLIM_INFINITY else _WANTED_DESCRIPTORS
    if soft != resource.RLIM_INFINITY and soft < (wanted := min(_WANTED_DESCRIPTORS, most)):
        resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))


def listen(host: str, port: int, bounds: Bounds | None = None) -> BoundedListener:
    """A listening socket; small answers leave at once (TCP_NODELAY).

    asyncio turns Nagle's algorithm off only on sockets that say they are TCP, which one made
    without the protocol's number does not.
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = BoundedListener(family, socket.SOCK_STREAM, socket.IPPROTO_TCP)
    if bounds is not None:
        listener.bounds = bounds
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    try:
        listener.bind((host, port))
        listener.listen(128)
    except OSError as error:
        listener.close()
        raise CannotServeError(
            f"cannot serve on {host} port {port}: {error.strerror}. Choose another with --port."
        ) from error
    return listener
