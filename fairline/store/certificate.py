"""A certificate authority of one's own, for phones in the same network, and the server's keys."""

import ipaddress
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from cryptography import x509
    from cryptography.hazmat.primitives.asymmetric.ec import EllipticCurvePrivateKey

AUTHORITY = timedelta(days=3650)
SERVER = timedelta(days=397)  # the longest that browsers take


@dataclass(frozen=True)
class Files:
    """Where an authority's certificate and the server's certificate and key lie."""

    authority: Path
    certificate: Path
    key: Path


def files(folder: Path) -> Files:
    return Files(folder / "ca.crt", folder / "server.crt", folder / "server.key")


def fingerprint(pem: bytes) -> str:
    """The SHA-256 of a certificate, in pairs, to be compared on the phone."""
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes

    return x509.load_pem_x509_certificate(pem).fingerprint(hashes.SHA256()).hex(":").upper()


def make(folder: Path, names: Sequence[str], at: datetime | None = None) -> Files:
    """An authority, once, and a certificate for these names and addresses signed by it.

    The authority's key may sign for nothing but server certificates, and stays in the folder, its
    owner's alone.
    """
    from cryptography import x509
    from cryptography.hazmat.primitives import serialization
    from cryptography.hazmat.primitives.asymmetric import ec

    now = at or datetime.now(UTC)
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    found, own_key = files(folder), folder / "ca.key"
    if found.authority.is_file() and own_key.is_file():
        authority = x509.load_pem_x509_certificate(found.authority.read_bytes())
        signer = serialization.load_pem_private_key(own_key.read_bytes(), None)
        assert isinstance(signer, ec.EllipticCurvePrivateKey)
    else:
        signer = ec.generate_private_key(ec.SECP256R1())
        authority = _authority(signer, now)
        _write(own_key, _pem(signer))
        _write(found.authority, authority.public_bytes(serialization.Encoding.PEM))
    key = ec.generate_private_key(ec.SECP256R1())
    certificate = _server(key, signer, authority, names, now)
    _write(found.key, _pem(key))
    _write(found.certificate, certificate.public_bytes(serialization.Encoding.PEM))
    return found


def ends(folder: Path) -> datetime:
    """When the server's certificate ends."""
    from cryptography import x509

    pem = files(folder).certificate.read_bytes()
    return x509.load_pem_x509_certificate(pem).not_valid_after_utc


def names(certificate: Path) -> list[str]:
    """The names and addresses that a certificate (PEM) is good for; none where it has none."""
    from cryptography import x509

    try:
        read = x509.load_pem_x509_certificate(certificate.read_bytes())
        found = read.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (ValueError, x509.ExtensionNotFound):
        return []
    return [
        *found.get_values_for_type(x509.DNSName),
        *(str(one) for one in found.get_values_for_type(x509.IPAddress)),
    ]


def _write(path: Path, content: bytes) -> None:
    path.touch(mode=0o600)
    path.write_bytes(content)


def _pem(key: "EllipticCurvePrivateKey") -> bytes:
    from cryptography.hazmat.primitives import serialization

    return key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


def _name(words: str) -> "x509.Name":
    from cryptography import x509

    return x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, words)])


def _authority(key: "EllipticCurvePrivateKey", now: datetime) -> "x509.Certificate":
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes

    own = _name("Fair Line, own authority")
    return (
        x509.CertificateBuilder()
        .subject_name(own)
        .issuer_name(own)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + AUTHORITY)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(
            x509.KeyUsage(
                digital_signature=False,
                content_commitment=False,
                key_encipherment=False,
                data_encipherment=False,
                key_agreement=False,
                key_cert_sign=True,
                crl_sign=True,
                encipher_only=False,
                decipher_only=False,
            ),
            critical=True,
        )
        .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), False)
        .sign(key, hashes.SHA256())
    )


def _server(
    key: "EllipticCurvePrivateKey",
    signer: "EllipticCurvePrivateKey",
    authority: "x509.Certificate",
    names: Sequence[str],
    now: datetime,
) -> "x509.Certificate":
    from cryptography import x509
    from cryptography.hazmat.primitives import hashes
    from cryptography.x509.oid import ExtendedKeyUsageOID

    return (
        x509.CertificateBuilder()
        .subject_name(_name(names[0][:60]))
        .issuer_name(authority.subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + SERVER)
        .add_extension(x509.SubjectAlternativeName([_alternative(n) for n in names]), False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), False)
        .add_extension(
            x509.AuthorityKeyIdentifier.from_issuer_public_key(signer.public_key()), False
        )
        .sign(signer, hashes.SHA256())
    )


def _alternative(name: str) -> "x509.GeneralName":
    from cryptography import x509

    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name)
