"""The simulated machines of a shop: one for every printer and plotter that has no address of its own."""

from perisect.core.sheet.shop_records import PlotterRecord, PrinterRecord
from perisect.stand_ins.shop import plate_of, seed_of
from perisect.store import equipment
from perisect.store.database import transaction
from perisect.up.cluster import free_port
from perisect.up.supervisor import Supervisor


class Machines:
    """Starts a simulated machine for every record without an address, also for those that are added later."""

    def __init__(self, shop: Supervisor, seed: int, time_factor: float, worn: bool = False) -> None:
        self._shop, self._seed, self._time_factor, self._worn = shop, seed, time_factor, worn
        self._ports: dict[str, tuple[int, int]] = {}
        self._told: dict[tuple[str, str], str] = {}

    def keep_running(self) -> None:
        """Start what is missing, stop what is no longer wanted. A database that is away is tried again later."""
        with transaction() as session:
            printers = equipment.all_of(session, "printer", PrinterRecord)
            plotters = equipment.all_of(session, "plotter", PlotterRecord)
            self._told = equipment.simulated_addresses(session)
        wanted = {f"printer-{each.id}": each for each in printers if not each.address and each.simulated}
        cutting = {f"plotter-{each.id}": each for each in plotters if not each.address and each.simulated}
        for name in [name for name in self._ports if name not in wanted and name not in cutting]:
            del self._ports[name]
            self._shop.forget(name)
        for name, printer in wanted.items():
            self._printer(name, printer)
        for name, plotter in cutting.items():
            self._plotter(name, plotter)

    def _printer(self, name: str, record: PrinterRecord) -> None:
        port, _ = self._port(name)
        self._shop.start(
            name,
            "stand-in-printer",
            *("--port", str(port), "--seed", str(seed_of(self._seed, record.id))),
            *("--widest-mm", str(record.widest_mm), "--longest-mm", str(record.longest_mm)),
        )
        self._tell("printer", record.id, f"wire://127.0.0.1:{port}")

    def _plotter(self, name: str, record: PlotterRecord) -> None:
        port, tray = self._port(name)
        plate = plate_of(record)
        self._shop.start(
            name,
            "stand-in-plotter",
            *("--port", str(port), "--tray-port", str(tray)),
            *("--seed", str(seed_of(self._seed, record.id)), "--time-factor", str(self._time_factor)),
            *("--plate-mm", str(plate.width_mm), str(plate.height_mm)),
            *("--corner-mm", str(plate.corner_mm[0]), str(plate.corner_mm[1])),
            *("--blade-mm", str(plate.blade_offset_mm)),
            *(("--worn",) if self._worn else ()),
            *("--force", str(plate.force.least), str(plate.force.most), str(plate.force.step)),
        )
        self._tell("plotter", record.id, f"wire://127.0.0.1:{port}?tray={tray}")

    def _port(self, name: str) -> tuple[int, int]:
        if self._shop.is_failing(name):
            self._ports.pop(name, None)  # Somebody else may hold its port.
        if name not in self._ports:
            self._ports[name] = free_port(), free_port()
        return self._ports[name]

    def _tell(self, kind: equipment.Kind, machine_id: str, address: str) -> None:
        if self._told.get((kind, machine_id)) == address:
            return
        with transaction() as session:
            equipment.set_simulated_address(session, kind, machine_id, address)
