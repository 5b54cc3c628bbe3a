"""The certificate that the product makes for itself, for the address it is shared at.

P-256, signed by itself, a year long (RFC 5280; the lengths browsers take). It proves nothing but
that the other end is the same as before: its fingerprint is shown on the page to compare.
"""

from __future__ import annotations

import ipaddress
import os
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

_LASTS, _RENEWED_BEFORE = timedelta(days=365), timedelta(days=30)
_CLOCKS_DIFFER = timedelta(days=1)


@dataclass(frozen=True)
class Certificate:
    """Files of the key and the certificate, and the SHA-256 by which browsers show it."""

    key: Path
    certificate: Path
    fingerprint: str


def certificate_for(folder: Path, address: str, at: datetime | None = None) -> Certificate:
    """The certificate for an address, kept in a folder; made again where it is over or for another.

    ``address``: an IP address. The key is readable by its owner alone.
    """
    now = at or datetime.now(UTC)
    key, kept = folder / "key.pem", folder / "certificate.pem"
    found = _kept(key, kept, address, now)
    if found is None:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        found = _make(key, kept, address, now)
    return Certificate(key, kept, found.fingerprint(hashes.SHA256()).hex(":").upper())


def _kept(key: Path, kept: Path, address: str, now: datetime) -> x509.Certificate | None:
    try:
        found = x509.load_pem_x509_certificate(kept.read_bytes())
        private = serialization.load_pem_private_key(key.read_bytes(), None)
        names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (OSError, ValueError, x509.ExtensionNotFound):
        return None
    whole = private.public_key() == found.public_key()
    mine = ipaddress.ip_address(address) in names.get_values_for_type(x509.IPAddress)
    lasts = found.not_valid_before_utc <= now < found.not_valid_after_utc - _RENEWED_BEFORE
    return found if whole and mine and lasts else None


def _make(key: Path, kept: Path, address: str, now: datetime) -> x509.Certificate:
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Neat Patch on this network")])
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - _CLOCKS_DIFFER)
        .not_valid_after(now + _LASTS)
        .add_extension(
            x509.SubjectAlternativeName([x509.IPAddress(ipaddress.ip_address(address))]),
            critical=False,
        )
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(private, hashes.SHA256())
    )
    _write(
        key,
        private.private_bytes(
            serialization.Encoding.PEM,
            serialization.PrivateFormat.PKCS8,
            serialization.NoEncryption(),
        ),
    )
    _write(kept, made.public_bytes(serialization.Encoding.PEM))
    return made


def _write(path: Path, data: bytes) -> None:
    """Private from its first byte on."""
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as out:
        out.write(data)
