"""The certificate the product makes for itself, read back, and the QR code."""

from __future__ import annotations

import ssl
from datetime import UTC, datetime, timedelta
from hashlib import sha256
from pathlib import Path

from cryptography import x509

from neatpatch.services.sharing.certificate import certificate_for
from neatpatch.services.sharing.network import qr_picture


def test_it_is_made_once_for_an_address_and_kept_private(tmp_path: Path) -> None:
    folder = tmp_path / "sharing"
    made = certificate_for(folder, "127.0.0.2")
    assert certificate_for(folder, "127.0.0.2") == made
    assert oct(folder.stat().st_mode & 0o777) == "0o700"
    assert oct(made.key.stat().st_mode & 0o777) == "0o600"
    read = x509.load_pem_x509_certificate(made.certificate.read_bytes())
    names = read.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    assert [str(a) for a in names.get_values_for_type(x509.IPAddress)] == ["127.0.0.2"]
    assert read.not_valid_after_utc - read.not_valid_before_utc < timedelta(days=398)


def test_its_fingerprint_is_what_browsers_show(tmp_path: Path) -> None:
    made = certificate_for(tmp_path, "127.0.0.2")
    der = ssl.PEM_cert_to_DER_cert(made.certificate.read_text())
    assert made.fingerprint.replace(":", "").lower() == sha256(der).hexdigest()
    assert len(made.fingerprint) == 32 * 3 - 1


def test_another_address_or_an_end_near_makes_a_new_one(tmp_path: Path) -> None:
    first = certificate_for(tmp_path, "127.0.0.2")
    other = certificate_for(tmp_path, "127.0.0.3")
    assert other.fingerprint != first.fingerprint
    later = certificate_for(tmp_path, "127.0.0.3", datetime.now(UTC) + timedelta(days=340))
    assert later.fingerprint != other.fingerprint


def test_a_broken_or_foreign_file_is_replaced(tmp_path: Path) -> None:
    first = certificate_for(tmp_path, "127.0.0.2")
    first.key.write_text("no key")
    second = certificate_for(tmp_path, "127.0.0.2")
    assert second.fingerprint != first.fingerprint
    ssl.create_default_context().load_cert_chain(second.certificate, second.key)


def test_a_qr_code_is_a_picture_of_its_own() -> None:
    uri = qr_picture("https://192.168.1.5:8720/pair#123456")
    assert uri.startswith("data:image/svg+xml")
    assert "svg" in uri
    assert uri != qr_picture("https://192.168.1.5:8720/pair#123457")
