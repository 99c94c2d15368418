"""Serving phones on the local network: this machine's address, a certificate made for it, a QR code to scan."""

from __future__ import annotations

import os
import socket
import subprocess

from paths import DATA, PYTHON, Sorry, say

CERT, KEY = DATA / "lan.crt", DATA / "lan.key"
MAKE = """
import datetime, ipaddress, sys
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
address, crt, key = sys.argv[1:]
now = datetime.datetime.now(datetime.timezone.utc)
try:
    old = x509.load_pem_x509_certificate(open(crt, "rb").read())
    names = old.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    if ipaddress.ip_address(address) in names.get_values_for_type(x509.IPAddress) and old.not_valid_after_utc > now + datetime.timedelta(days=7):
        sys.exit(0)
except (OSError, ValueError):
    pass
private = ec.generate_private_key(ec.SECP256R1())
name = x509.Name([x509.NameAttribute(x509.NameOID.COMMON_NAME, "Mindful Crate on this network")])
alternative = [x509.IPAddress(ipaddress.ip_address(address)), x509.IPAddress(ipaddress.ip_address("127.0.0.1")), x509.DNSName("localhost")]
made = (x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(private.public_key())
    .serial_number(x509.random_serial_number()).not_valid_before(now - datetime.timedelta(hours=1))
    .not_valid_after(now + datetime.timedelta(days=90))
    .add_extension(x509.SubjectAlternativeName(alternative), critical=False)
    .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    .add_extension(x509.ExtendedKeyUsage([x509.ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
    .sign(private, hashes.SHA256()))
import os
fd = os.open(key, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
os.write(fd, private.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
os.close(fd)
open(crt, "wb").write(made.public_bytes(serialization.Encoding.PEM))
"""


def address() -> str:
    """The address phones reach this machine by. ``CRATE_LAN_ADDRESS`` names it when there are several."""
    named = os.environ.get("CRATE_LAN_ADDRESS")
    if named:
        return named
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # nothing is sent: it only asks which way it would go
            return str(probe.getsockname()[0])
        except OSError:
            raise Sorry("This machine is on no network. Name its address in CRATE_LAN_ADDRESS.") from None


def certificate(for_address: str) -> None:
    """A certificate for that address, kept until it runs out or the address changes."""
    done = subprocess.run(
        [str(PYTHON), "-c", MAKE, for_address, str(CERT), str(KEY)], capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise Sorry(f"No certificate could be made:\n{done.stderr[-800:]}")


def show(url: str) -> None:
    """The address of the handset as a QR code on the terminal."""
    say(f"Phones on this network: {url}\nThey warn once about the certificate, which was made here for this address.\n")
    code = "import segno, sys; segno.make(sys.argv[1], error='m').terminal(compact=True)"
    subprocess.run([str(PYTHON), "-c", code, url], check=False)
