"""A small private authority for the shop's network, and the certificate of its server.

Made on the first start and renewed by itself; keys can be read by their owner only. Run as a
program it makes everything ready and prints where it lies, as JSON.

Source: RFC 5280; a server's certificate of at most 398 days is what browsers take.
"""

import ipaddress
import json
import os
import socket
import sys
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

AUTHORITY_LASTS = timedelta(days=10 * 365)
SERVER_LASTS = timedelta(days=397)
# Clocks of tablets are not all right.
BACKDATED = timedelta(days=1)
RENEWED_BEFORE = timedelta(days=30)


@dataclass(frozen=True)
class ReadyAuthority:
    """Files of a server that its network can trust; the authority's SHA-256 fingerprint, in pairs
    of hexadecimal digits; until when the server's certificate lasts.
    """

    certificate: str
    key: str
    authority: str
    fingerprint: str
    lasts_until: str


def make_ready(folder: Path, names: Sequence[str], now: datetime) -> ReadyAuthority:
    """Whatever is missing, runs out soon or holds other names is made; the rest is left."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    authority_key, authority = _authority(folder, now)
    server = _held(folder / "server.crt")
    if server is None or not _serves(server, authority, names, now):
        server = _server(folder, authority_key, authority, names, now)
    print_ = authority.fingerprint(hashes.SHA256()).hex().upper()
    return ReadyAuthority(
        certificate=str(folder / "server.crt"),
        key=str(folder / "server.key"),
        authority=str(folder / "authority.crt"),
        fingerprint=":".join(print_[n : n + 2] for n in range(0, len(print_), 2)),
        lasts_until=server.not_valid_after_utc.date().isoformat(),
    )


def _authority(folder: Path, now: datetime) -> tuple[ec.EllipticCurvePrivateKey, x509.Certificate]:
    held, path = _held(folder / "authority.crt"), folder / "authority.key"
    if held is not None and path.exists() and held.not_valid_after_utc - now > RENEWED_BEFORE:
        key = serialization.load_pem_private_key(path.read_bytes(), None)
        if isinstance(key, ec.EllipticCurvePrivateKey):
            return key, held
    key = ec.generate_private_key(ec.SECP256R1())
    name = _name(f"Tempermark authority of {socket.gethostname()}")
    certificate = (
        _certificate(name, name, key.public_key(), now, AUTHORITY_LASTS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs_certificates=True), critical=True)
        .sign(key, hashes.SHA256())
    )
    _keep(path, folder / "authority.crt", key, certificate)
    return key, certificate


def _server(
    folder: Path,
    authority_key: ec.EllipticCurvePrivateKey,
    authority: x509.Certificate,
    names: Sequence[str],
    now: datetime,
) -> x509.Certificate:
    key = ec.generate_private_key(ec.SECP256R1())
    certificate = (
        _certificate(_name("Tempermark"), authority.subject, key.public_key(), now, SERVER_LASTS)
        .add_extension(x509.SubjectAlternativeName([_general(n) for n in names]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs_certificates=False), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(authority_key, hashes.SHA256())
    )
    _keep(folder / "server.key", folder / "server.crt", key, certificate)
    return certificate


def _certificate(
    subject: x509.Name,
    issuer: x509.Name,
    public_key: ec.EllipticCurvePublicKey,
    now: datetime,
    lasts: timedelta,
) -> x509.CertificateBuilder:
    return (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(issuer)
        .public_key(public_key)
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - BACKDATED)
        .not_valid_after(now + lasts)
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(public_key), critical=False)
    )


def _name(text: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, text[:64])])


def _general(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _usage(signs_certificates: bool) -> x509.KeyUsage:
    return x509.KeyUsage(
        digital_signature=not signs_certificates,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        key_cert_sign=signs_certificates,
        crl_sign=signs_certificates,
        encipher_only=False,
        decipher_only=False,
    )


def _serves(
    server: x509.Certificate, authority: x509.Certificate, names: Sequence[str], now: datetime
) -> bool:
    """Whether a certificate is of this authority, for these names, and lasts a while."""
    try:
        server.verify_directly_issued_by(authority)
    except (ValueError, TypeError, InvalidSignature):
        return False
    given = server.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    same = set(given) == {_general(name) for name in names}
    return same and server.not_valid_after_utc - now > RENEWED_BEFORE


def _held(path: Path) -> x509.Certificate | None:
    try:
        return x509.load_pem_x509_certificate(path.read_bytes())
    except (OSError, ValueError):
        return None


def _keep(
    key_path: Path,
    certificate_path: Path,
    key: ec.EllipticCurvePrivateKey,
    certificate: x509.Certificate,
) -> None:
    secret = key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )
    key_path.unlink(missing_ok=True)
    with os.fdopen(os.open(key_path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(secret)
    certificate_path.write_bytes(certificate.public_bytes(serialization.Encoding.PEM))


if __name__ == "__main__":
    print(json.dumps(asdict(make_ready(Path(sys.argv[1]), sys.argv[2:], datetime.now(UTC)))))
