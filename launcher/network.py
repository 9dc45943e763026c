"""The names and addresses of this machine on the shop's network."""

import fcntl
import ipaddress
import re
import socket
import struct

_SIOCGIFADDR = 0x8915
_NAME = re.compile(r"(?!-)[a-z0-9-]{1,63}(?<!-)(\.(?!-)[a-z0-9-]{1,63}(?<!-))*")


def addresses() -> list[str]:
    """IPv4 addresses that other machines of the network can reach this one by."""
    found = []
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        for _, name in socket.if_nameindex():
            try:
                row = fcntl.ioctl(
                    probe.fileno(), _SIOCGIFADDR, struct.pack("256s", name[:15].encode())
                )
            except OSError:
                continue
            address = socket.inet_ntoa(row[20:24])
            if not ipaddress.ip_address(address).is_loopback:
                found.append(address)
    return found


def names() -> list[str]:
    """What this machine is called, and as which it announces itself."""
    host = socket.gethostname().lower().split(".")[0]
    return [f"{host}.local", host] if is_name(host) else []


def is_name(text: str) -> bool:
    """Whether text is a host's name or an address."""
    try:
        ipaddress.ip_address(text)
    except ValueError:
        return len(text) <= 253 and _NAME.fullmatch(text.lower()) is not None
    return True
