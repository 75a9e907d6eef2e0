"""Makes a certificate for the addresses given, under a root of this folder's own; run with the application's Python.

    python certificate.py FOLDER ADDRESS ...

A root, kept for ten years, is what telephones are taught to trust; under it a certificate for a year, made anew when it
nears its end or when the addresses are others. Prints until when it is good.
"""

import ipaddress
import os
import sys
from datetime import UTC, datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

ROOT_LASTS, LASTS, RENEWED_BEFORE = timedelta(days=3650), timedelta(days=397), timedelta(days=30)


def main(folder: Path, addresses: list[str]) -> None:
    """Bring the folder's certificate to these addresses."""
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    now = datetime.now(UTC)
    root = _read(folder / "root.crt")
    if root is None or root.not_valid_after_utc - now < LASTS or not (folder / "root.key").exists():
        root = _root(folder, now)
        (folder / "server.crt").unlink(missing_ok=True)
    here = _read(folder / "server.crt")
    if here is None or here.not_valid_after_utc - now < RENEWED_BEFORE or now < here.not_valid_before_utc or (
            set(_names(here)) != set(addresses)) or here.issuer != root.subject:
        here = _server(folder, root, addresses, now)
    print(f"{here.not_valid_after_utc:%-d %b %Y}")


def _read(path: Path) -> x509.Certificate | None:
    try:
        return x509.load_pem_x509_certificate(path.read_bytes())
    except (FileNotFoundError, ValueError):  # none, or a broken one: made anew
        return None


def _names(certificate: x509.Certificate) -> list[str]:
    names = certificate.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    return [str(name.value) for name in names]


def _root(folder: Path, now: datetime) -> x509.Certificate:
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, f"Loadstar on this machine, {now:%d %b %Y %H:%M}")])
    made = (x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key())
            .serial_number(x509.random_serial_number())
            .not_valid_before(now - timedelta(days=1)).not_valid_after(now + ROOT_LASTS)
            .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
            .add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
            .add_extension(_usage(signs=True), critical=True)
            .sign(key, hashes.SHA256()))
    _write(folder / "root.key", _plain(key))
    _write(folder / "root.crt", made.public_bytes(serialization.Encoding.PEM))
    return made


def _server(folder: Path, root: x509.Certificate, addresses: list[str], now: datetime) -> x509.Certificate:
    signing = serialization.load_pem_private_key((folder / "root.key").read_bytes(), None)
    assert isinstance(signing, ec.EllipticCurvePrivateKey)
    key = ec.generate_private_key(ec.SECP256R1())
    made = (x509.CertificateBuilder()
            .subject_name(x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Loadstar")]))
            .issuer_name(root.subject).public_key(key.public_key()).serial_number(x509.random_serial_number())
            .not_valid_before(now - timedelta(days=1)).not_valid_after(now + LASTS)
            .add_extension(x509.SubjectAlternativeName([_name(a) for a in addresses]), critical=False)
            .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
            .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
            .add_extension(x509.AuthorityKeyIdentifier.from_issuer_public_key(signing.public_key()), critical=False)
            .add_extension(_usage(signs=False), critical=True)
            .sign(signing, hashes.SHA256()))
    _write(folder / "server.key", _plain(key))
    _write(folder / "server.crt", made.public_bytes(serialization.Encoding.PEM)
           + root.public_bytes(serialization.Encoding.PEM))
    return made


def _usage(*, signs: bool) -> x509.KeyUsage:
    return x509.KeyUsage(digital_signature=not signs, key_cert_sign=signs, crl_sign=signs, content_commitment=False,
                         key_encipherment=False, data_encipherment=False, key_agreement=False, encipher_only=False,
                         decipher_only=False)


def _name(address: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(address))
    except ValueError:
        return x509.DNSName(address)


def _plain(key: ec.EllipticCurvePrivateKey) -> bytes:
    return key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8,
                             serialization.NoEncryption())


def _write(path: Path, content: bytes) -> None:
    """For this account alone, and whole or not at all."""
    fresh = path.with_suffix(path.suffix + ".new")
    fresh.unlink(missing_ok=True)
    with os.fdopen(os.open(fresh, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600), "wb") as file:
        file.write(content)
    fresh.replace(path)


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2:])
