"""A small certificate authority of a data folder, and the server's certificate for the machine's own network.

The authority may vouch for private addresses and for names of the own network only (critical name constraints): whoever trusts it on a
phone trusts it for nothing else. Sources: RFC 5280, 4.2.1.10 (name constraints); validity of at most 398 days as browsers ask for.
"""

from __future__ import annotations

import ipaddress
import os
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

Key = ec.EllipticCurvePrivateKey
AUTHORITY_DAYS, SERVER_DAYS, RENEWED_BEFORE_DAYS = 3650, 200, 30
CLOCKS_DIFFER = timedelta(days=2)
"""A phone's clock may be behind the machine's by so much."""
PRIVATE = ("10.0.0.0/8", "172.16.0.0/12", "192.168.0.0/16", "169.254.0.0/16", "127.0.0.0/8", "fc00::/7", "fe80::/10")
LOCAL = ("local", "localhost", "lan", "home.arpa", "internal")


@dataclass(frozen=True)
class Certified:
    """Files of the server's certificate and its key; the authority's SHA-256 in pairs of hex digits; what was made anew, in words."""

    certificate: Path
    key: Path
    fingerprint: str
    told: str


def certify(folder: Path, hosts: Sequence[str], now: datetime) -> Certified:
    """The server's certificate for some hosts, as kept; made anew where it is missing, damaged, for other hosts, or ends within thirty
    days. The authority is made once, and again only where it is itself about to end or can't vouch for these hosts.

    ``hosts``: addresses and names. ValueError for a host that no certificate can name.
    """
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    names = [_name(host) for host in hosts]
    authority, told = _kept(folder / "authority"), ""
    if authority is None or not _lasts(authority[0], now) or not _may_vouch(authority[0], names):
        told = "phones have to be made to trust this machine again" if authority else ""
        authority = _make_authority(names, now)
        _keep(folder / "authority", *authority)
    server = _kept(folder / "server")
    if server is None or not _lasts(server[0], now) or not _is_for(server[0], names, authority[0]):
        told = told or (
            "the certificate for phones was made anew; those that trust this machine go on" if server else ""
        )
        server = _make_server(names, authority, now)
        _keep(folder / "server", *server)
    digest = authority[0].fingerprint(hashes.SHA256()).hex(":").upper()
    return Certified(folder / "server.crt", folder / "server.key", digest, told)


def _name(host: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(host))
    except ValueError:
        return x509.DNSName(host)


def _subject(words: str) -> x509.Name:
    return x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, words[:64])])


def _constraints(names: Sequence[x509.GeneralName]) -> x509.NameConstraints:
    """Private addresses and local names, and what of the hosts lies outside of them."""
    permitted: list[x509.GeneralName] = [x509.IPAddress(ipaddress.ip_network(net)) for net in PRIVATE]
    permitted += [x509.DNSName(name) for name in LOCAL]
    for name in names:
        if isinstance(name, x509.IPAddress):
            permitted.append(x509.IPAddress(ipaddress.ip_network(str(name.value))))
        elif isinstance(name, x509.DNSName):
            permitted.append(name)
    return x509.NameConstraints(list(dict.fromkeys(permitted)), None)


def _make_authority(names: Sequence[x509.GeneralName], now: datetime) -> tuple[x509.Certificate, Key]:
    key = ec.generate_private_key(ec.SECP256R1())
    subject = _subject(f"Eyot on this network, {now:%Y-%m-%d}")
    usage = x509.KeyUsage(
        key_cert_sign=True,
        crl_sign=True,
        digital_signature=False,
        content_commitment=False,
        key_encipherment=False,
        data_encipherment=False,
        key_agreement=False,
        encipher_only=False,
        decipher_only=False,
    )
    builder = _builder(subject, subject, key, now, AUTHORITY_DAYS)
    builder = builder.add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
    builder = builder.add_extension(usage, critical=True).add_extension(_constraints(names), critical=True)
    builder = builder.add_extension(x509.SubjectKeyIdentifier.from_public_key(key.public_key()), critical=False)
    return builder.sign(key, hashes.SHA256()), key


def _make_server(
    names: Sequence[x509.GeneralName], authority: tuple[x509.Certificate, Key], now: datetime
) -> tuple[x509.Certificate, Key]:
    issuer, signing = authority
    key = ec.generate_private_key(ec.SECP256R1())
    ends = min(now + timedelta(days=SERVER_DAYS), issuer.not_valid_after_utc)
    builder = _builder(_subject("Eyot"), issuer.subject, key, now, (ends - now).days)
    builder = builder.add_extension(x509.SubjectAlternativeName(names), critical=False)
    builder = builder.add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    builder = builder.add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    by = x509.AuthorityKeyIdentifier.from_issuer_public_key(signing.public_key())
    return builder.add_extension(by, critical=False).sign(signing, hashes.SHA256()), key


def _builder(subject: x509.Name, issuer: x509.Name, key: Key, now: datetime, days: int) -> x509.CertificateBuilder:
    builder = x509.CertificateBuilder().subject_name(subject).issuer_name(issuer).public_key(key.public_key())
    builder = builder.serial_number(x509.random_serial_number())
    return builder.not_valid_before(now - CLOCKS_DIFFER).not_valid_after(now + timedelta(days=days))


def _lasts(certificate: x509.Certificate, now: datetime) -> bool:
    begins, ends = certificate.not_valid_before_utc, certificate.not_valid_after_utc
    return begins <= now and now + timedelta(days=RENEWED_BEFORE_DAYS) < ends


def _may_vouch(authority: x509.Certificate, names: Sequence[x509.GeneralName]) -> bool:
    permitted = authority.extensions.get_extension_for_class(x509.NameConstraints).value.permitted_subtrees or ()
    networks = [ipaddress.ip_network(str(one.value)) for one in permitted if isinstance(one, x509.IPAddress)]
    domains = [one.value for one in permitted if isinstance(one, x509.DNSName)]
    return all(
        any(ipaddress.ip_address(str(name.value)) in net for net in networks)
        if isinstance(name, x509.IPAddress)
        else any(name.value == domain or name.value.endswith(f".{domain}") for domain in domains)
        for name in names
    )


def _is_for(server: x509.Certificate, names: Sequence[x509.GeneralName], authority: x509.Certificate) -> bool:
    named = server.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    try:
        server.verify_directly_issued_by(authority)
    except Exception:  # noqa: BLE001  signed by another: whatever is wrong with it, it is not ours
        return False
    return set(named) == set(names)


def _kept(path: Path) -> tuple[x509.Certificate, Key] | None:
    """A certificate and its key; none where one is missing or can't be read, or the two don't belong together."""
    try:
        certificate = x509.load_pem_x509_certificate(path.with_suffix(".crt").read_bytes())
        key = serialization.load_pem_private_key(path.with_suffix(".key").read_bytes(), None)
    except (OSError, ValueError):
        return None
    if not isinstance(key, ec.EllipticCurvePrivateKey) or key.public_key() != certificate.public_key():
        return None
    return certificate, key


def _keep(path: Path, certificate: x509.Certificate, key: Key) -> None:
    secret = key.private_bytes(
        serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
    )
    _write(path.with_suffix(".key"), secret, 0o600)
    _write(path.with_suffix(".crt"), certificate.public_bytes(serialization.Encoding.PEM), 0o644)


def _write(path: Path, data: bytes, mode: int) -> None:
    unfinished = path.with_name(f"{path.name}.new")
    descriptor = os.open(unfinished, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, mode)
    with os.fdopen(descriptor, "wb") as file:
        file.write(data)
    unfinished.replace(path)
