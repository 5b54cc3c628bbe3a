"""Addresses of this machine that other devices reach, and a QR code for one."""

from __future__ import annotations

import ipaddress
import socket

import segno

_ANYWHERE = ("192.0.2.1", 9)
"""An address kept for documentation (RFC 5737): nothing is sent, only the way is looked up."""


def own_address() -> str | None:
    """The address at which this machine is reached on its network; None where it is on none."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(_ANYWHERE)
        except OSError:
            return None
        found = str(probe.getsockname()[0])
    return None if ipaddress.ip_address(found).is_loopback else found


def qr_picture(text: str) -> str:
    """A text as a QR code with the quiet zone around it (ISO/IEC 18004), an SVG as a data URI."""
    made = segno.make(text, error="m", micro=False)
    return str(made.svg_data_uri(scale=5, border=4, light="#fff"))
