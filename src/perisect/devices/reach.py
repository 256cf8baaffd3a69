"""Check that an address may be a device of this shop, and try whether a device answers."""

import ipaddress
import shutil
import socket
import subprocess
from collections.abc import Collection, Sequence
from contextlib import suppress
from pathlib import Path
from urllib.parse import urlsplit

from perisect.devices.address import resolve
from perisect.devices.errors import BadAddress
from perisect.devices.open import check_address
from perisect.devices.paper_printers import IPP_PORT, RAW_PORT, queue_of
from perisect.devices.plain_plotter import serial_of
from perisect.devices.wire_plotter import ports_of

TRY_S = 4.0
"""How long somebody is given to answer, s."""
DEFAULT_PORTS = {"socket": RAW_PORT, "ipp": IPP_PORT}


def check_reach(
    kind: str, address: str, language: str, allowed: Sequence[str], taken: Collection[int]
) -> list[tuple[str, int]]:
    """Check that an address is one that this shop's devices may have; nothing is connected to.

    Args:
        kind: `printer` or `plotter`.
        address: a URL of a device.
        language: what a plotter speaks.
        allowed: networks, hosts, queues and lines that devices may be at.
        taken: ports of Perisect itself and of its database on this machine.

    Returns:
        Numeric hosts and ports that it is reached at; none for a queue or a line of this machine.

    Raises:
        BadAddress: it is none, or not an allowed one; the text says what to do.
    """
    check_address(kind, address, language)
    scheme = address.partition(":")[0]
    if scheme in ("lp", "serial"):
        name = f"lp:{queue_of(address)}" if scheme == "lp" else f"serial:{serial_of(address)[0]}"
        if name not in allowed:
            raise BadAddress(
                f"{name} is not among those that may be used. Add it to PERISECT_DEVICE_NETWORKS."
            )
        return []
    url = urlsplit(address)
    ports = (
        ports_of(address) if (kind, scheme) == ("plotter", "wire") else (url.port or DEFAULT_PORTS[scheme],)
    )
    try:
        places = [resolve(url.hostname or "", port, allowed) for port in ports]
    except OSError as error:
        raise BadAddress(
            f"{str(url.hostname)[:80]} is not known on this network. Check the address."
        ) from error
    for host, port in places:
        if port in taken and _is_this_machine(host):
            raise BadAddress(
                f"Port {port} of this machine is Perisect's own, not a device's. Check the address."
            )
    return places


def try_reach(kind: str, address: str, places: Sequence[tuple[str, int]]) -> str | None:
    """Try whether somebody answers at an address that was checked; nothing is printed or cut.

    Returns:
        None where somebody does, else what is wrong.
    """
    scheme = address.partition(":")[0]
    if scheme == "lp":
        return _try_queue(queue_of(address))
    if scheme == "serial":
        device = serial_of(address)[0]
        return (
            None if Path(device).exists() else f"{device} is not there. Plug the plotter in and switch it on."
        )
    for place in places:
        try:
            socket.create_connection(place, timeout=TRY_S).close()
        except OSError:
            return (
                f"Nobody answers at {place[0]}, port {place[1]}. Switch the {kind} on and check its address."
            )
    return None


def _try_queue(queue: str) -> str | None:
    command = shutil.which("lpstat")
    if command is None:
        return "This machine has no printing system: the command lpstat is not there."
    with suppress(subprocess.TimeoutExpired):
        done = subprocess.run([command, "-p", queue], capture_output=True, timeout=TRY_S, check=False)
        if done.returncode == 0:
            return None
    return f"This machine's printing system has no queue {queue}. `lpstat -e` lists those it has."


def _is_this_machine(host: str) -> bool:
    number = ipaddress.ip_address(host)
    if number.is_loopback or number.is_unspecified:
        return True
    with socket.socket(socket.AF_INET if number.version == 4 else socket.AF_INET6) as probe:
        try:
            probe.bind((host, 0))
        except OSError:
            return False
        return True
