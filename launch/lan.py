"""Serving phones on the local network: this machine's address, a certificate made for it, a QR code to scan."""

from __future__ import annotations

import os
import socket
import subprocess

from paths import DATA, PYTHON, ROOT, Sorry, say

CERT, KEY = DATA / "lan.crt", DATA / "lan.key"
MAKER = ROOT / "launch" / "make_certificate.py"


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
        [str(PYTHON), str(MAKER), for_address, str(CERT), str(KEY)], capture_output=True, text=True, check=False
    )
    if done.returncode:
        raise Sorry(f"No certificate could be made:\n{done.stderr[-800:]}")


def show(url: str) -> None:
    """The address of the handset as a QR code on the terminal."""
    say(f"Phones on this network: {url}\nThey warn once about the certificate, which was made here for this address.\n")
    code = "import segno, sys; segno.make(sys.argv[1], error='m').terminal(compact=True)"
    subprocess.run([str(PYTHON), "-c", code, url], check=False)
