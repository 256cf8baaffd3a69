"""Addresses of devices: URLs, checked against the networks that the shop allows, and connections to them."""

import ipaddress
import socket
import threading
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from urllib.parse import SplitResult, urlsplit

from perisect.devices.errors import BadAddress

PATIENCE_S = 10.0
"""A device that was switched off and on again takes a moment to listen."""

LOOPBACK = ("127.0.0.0/8", "::1/128")


def parse(address: str, schemes: Sequence[str]) -> SplitResult:
    """The parts of a device's URL.

    Raises:
        BadAddress: not a URL of these schemes with a host and a port.
    """
    try:
        url = urlsplit(address)
        port = url.port
    except ValueError as error:
        raise BadAddress(f"{address[:80]} is no address: {error}.") from error
    if url.scheme not in schemes or not url.hostname or port is None:
        known = " or ".join(f"{scheme}://host:port" for scheme in schemes)
        raise BadAddress(f"{address[:80]} is no address of such a device. Give it as {known}.")
    return url


def resolve(host: str, port: int, allowed: Sequence[str]) -> tuple[str, int]:
    """A numeric address of a host that the shop allows; what was checked is what is connected to.

    Raises:
        BadAddress: the host lies in no allowed network.
        OSError: it is not known.
    """
    networks, names = _allowed(allowed)
    for *_, place in socket.getaddrinfo(host, port, type=socket.SOCK_STREAM):
        number = ipaddress.ip_address(place[0])
        if host.lower() in names or any(
            number in network for network in networks if network.version == number.version
        ):
            return str(place[0]), port
    raise BadAddress(
        f"{host} is in none of the networks that devices may be in. Add its network or its name to "
        "PERISECT_DEVICE_NETWORKS."
    )


def _allowed(
    allowed: Sequence[str],
) -> tuple[list[ipaddress.IPv4Network | ipaddress.IPv6Network], set[str]]:
    """Networks, and names of hosts, of a list that holds both."""
    networks, names = [], set()
    for each in allowed:
        try:
            networks.append(ipaddress.ip_network(each))
        except ValueError:
            names.add(each.lower())
    return networks, names


@contextmanager
def time_limit(peer: socket.socket, seconds: float) -> Iterator[None]:
    """Hang up on a peer that has not done all that is asked of it in time, however often it sends a byte.

    Args:
        seconds: time for everything inside.

    Raises:
        TimeoutError: the time ran out; what was received until then is not whole.
    """
    expired = False

    def hang_up() -> None:
        nonlocal expired
        expired = True
        with suppress(OSError):
            peer.shutdown(socket.SHUT_RDWR)

    clock = threading.Timer(seconds, hang_up)
    clock.daemon = True
    clock.start()
    try:
        yield
    finally:
        clock.cancel()
    if expired:
        raise TimeoutError("the device took too long")


def connect(url: SplitResult, port: int, allowed: Sequence[str], timeout_s: float) -> socket.socket:
    """A connection, tried for a while when nobody listens.

    Raises:
        BadAddress: not an allowed host.
        OSError: nobody answers.
    """
    place = resolve(url.hostname or "", port, allowed)
    deadline = time.monotonic() + PATIENCE_S
    while True:
        try:
            return socket.create_connection(place, timeout=timeout_s)
        except ConnectionRefusedError:
            if time.monotonic() >= deadline:
                raise
            time.sleep(0.2)
