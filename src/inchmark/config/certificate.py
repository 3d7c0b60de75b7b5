"""A small authority of one's own and a certificate by it, for `./start --lan`.

    python -m inchmark.config.certificate FOLDER ADDRESS [ADDRESS …]

The authority is made once and stays, so that a phone that trusts it goes on doing so; the
certificate is made anew when it is about to end or when the addresses are others.
"""

from __future__ import annotations

import ipaddress
import os
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

AUTHORITY_DAYS, CERTIFICATE_DAYS, RENEW_DAYS = 3650, 397, 30


def make_certificate(folder: Path, addresses: list[str]) -> Path:
    """Return the folder with authority.pem, certificate.pem and key.pem for some addresses."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    authority, key = _authority(folder)
    if not _is_good(folder / "certificate.pem", addresses):
        _certificate(folder, addresses, authority, key)
    return folder


def _authority(folder: Path) -> tuple[x509.Certificate, ec.EllipticCurvePrivateKey]:
    kept, secret = folder / "authority.pem", folder / "authority-key.pem"
    if kept.exists() and secret.exists():
        found = serialization.load_pem_private_key(secret.read_bytes(), None)
        assert isinstance(found, ec.EllipticCurvePrivateKey)
        return x509.load_pem_x509_certificate(kept.read_bytes()), found
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Inch Mark on this machine")])
    made = (
        _begun(name, name, key, AUTHORITY_DAYS)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .add_extension(_usage(signs=True), critical=True)
        .sign(key, hashes.SHA256())
    )
    _keep(secret, _pem(key))
    kept.write_bytes(made.public_bytes(serialization.Encoding.PEM))
    return made, key


def _certificate(
    folder: Path,
    addresses: list[str],
    authority: x509.Certificate,
    authority_key: ec.EllipticCurvePrivateKey,
) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, addresses[0])])
    made = (
        _begun(name, authority.subject, key, CERTIFICATE_DAYS)
        .add_extension(
            x509.SubjectAlternativeName([_name(one) for one in addresses]), critical=False
        )
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(_usage(signs=False), critical=True)
        .add_extension(
            x509.ExtendedKeyUsage([x509.ExtendedKeyUsageOID.SERVER_AUTH]), critical=False
        )
        .sign(authority_key, hashes.SHA256())
    )
    _keep(folder / "key.pem", _pem(key))
    chain = made.public_bytes(serialization.Encoding.PEM)
    (folder / "certificate.pem").write_bytes(
        chain + authority.public_bytes(serialization.Encoding.PEM)
    )


def _begun(
    name: x509.Name, by: x509.Name, key: ec.EllipticCurvePrivateKey, days: int
) -> x509.CertificateBuilder:
    now = datetime.now(UTC)
    return (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(by)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))  # the phone's clock may be behind
        .not_valid_after(now + timedelta(days=days))
    )


def _usage(*, signs: bool) -> x509.KeyUsage:
    uses = ("digital_signature", "key_cert_sign", "crl_sign", "content_commitment")
    uses += ("key_encipherment", "data_encipherment", "key_agreement", "encipher_only")
    granted = ("key_cert_sign", "crl_sign") if signs else ("digital_signature",)
    return x509.KeyUsage(**{use: use in granted for use in (*uses, "decipher_only")})


def _name(address: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(address))
    except ValueError:
        return x509.DNSName(address)


def _is_good(path: Path, addresses: list[str]) -> bool:
    if not path.exists() or not (path.parent / "key.pem").exists():
        return False
    found = x509.load_pem_x509_certificate(path.read_bytes())
    names = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    lasts = found.not_valid_after_utc - datetime.now(UTC) > timedelta(days=RENEW_DAYS)
    return lasts and set(names) == {_name(one) for one in addresses}


def _pem(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


def _keep(path: Path, data: bytes) -> None:
    """Write a secret that only its owner can read, from its first byte on."""
    path.unlink(missing_ok=True)
    with os.fdopen(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(data)


def main() -> int:
    """Make what is missing."""
    make_certificate(Path(sys.argv[1]), sys.argv[2:])
    return 0


if __name__ == "__main__":
    sys.exit(main())
