"""The machine's own addresses and names on its network."""

from __future__ import annotations

import fcntl
import socket
import struct

from eyot_launch.console import CannotGoOn

ADDRESS_OF_INTERFACE = 0x8915  # SIOCGIFADDR


def own_addresses() -> list[str]:
    """IPv4 addresses of this machine but loopback, the one towards other networks first."""
    addresses = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        for _, name in socket.if_nameindex():
            asked = struct.pack("256s", name.encode()[:15])
            try:
                addresses.append(socket.inet_ntoa(fcntl.ioctl(probe, ADDRESS_OF_INTERFACE, asked)[20:24]))
            except OSError:
                continue  # an interface without an address
    outward = _outward()
    return sorted({one for one in addresses if not one.startswith("127.")}, key=lambda one: (one != outward, one))


def _outward() -> str:
    """The address from which other networks are reached; no packet is sent. Empty where there is none."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))  # an address for documentation, which nobody has
        except OSError:
            return ""
        return str(probe.getsockname()[0])


def hosts_for(wanted: list[str]) -> tuple[list[str], list[str]]:
    """Addresses to listen at, and all hosts under which they are asked for: with the machine's names where none were wanted."""
    addresses = wanted or own_addresses()
    if not addresses:
        raise CannotGoOn("this machine has no address on a network; connect it, or name one: --lan ADDRESS")
    name = socket.gethostname().split(".")[0].lower()
    names = [] if wanted or not name or name == "localhost" else [f"{name}.local"]
    return addresses, [*addresses, *names]
