"""Make a certificate for an address: ``make_certificate.py ADDRESS CERT KEY``. Run by the Python that is set up, which
has the cryptography package. One that is valid for another week and names the address is kept."""

from __future__ import annotations

import datetime
import ipaddress
import os
import sys
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec

IpAddress = ipaddress.IPv4Address | ipaddress.IPv6Address
DAYS = 90


def serves(cert: Path, address: IpAddress, until: datetime.datetime) -> bool:
    """Is there a certificate that names the address and is valid until then?"""
    try:
        old = x509.load_pem_x509_certificate(cert.read_bytes())
        names = old.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (OSError, ValueError, x509.ExtensionNotFound):
        return False
    return address in names.get_values_for_type(x509.IPAddress) and old.not_valid_after_utc > until


def make(address: IpAddress, cert: Path, key: Path, now: datetime.datetime) -> None:
    """A new key, readable by its owner alone, and a certificate signed with it."""
    private = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "Mindful Crate on this network")])
    loopback = ipaddress.ip_address("127.0.0.1")
    names = [x509.IPAddress(address), x509.IPAddress(loopback), x509.DNSName("localhost")]
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(private.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(hours=1))
        .not_valid_after(now + datetime.timedelta(days=DAYS))
        .add_extension(x509.SubjectAlternativeName(names), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([x509.ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .sign(private, hashes.SHA256())
    )
    descriptor = os.open(key, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(descriptor, "wb") as file:
        file.write(
            private.private_bytes(
                serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
            )
        )
    cert.write_bytes(made.public_bytes(serialization.Encoding.PEM))


if __name__ == "__main__":
    wanted, cert_file, key_file = ipaddress.ip_address(sys.argv[1]), Path(sys.argv[2]), Path(sys.argv[3])
    moment = datetime.datetime.now(datetime.UTC)
    if not serves(cert_file, wanted, moment + datetime.timedelta(days=7)):
        make(wanted, cert_file, key_file, moment)
