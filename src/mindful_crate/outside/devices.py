"""Real printers, scales and carriers of live floors.

The administrator names them in a file; nobody else can, and nothing that is not in it is ever written to or asked. A real
device says how it is by the same acts as a stand-in is set by, so the floor's log has it, what waits for a printer that takes
nothing waits as it does for a stand-in, and everything else is decided as in a rehearsal.
"""

from __future__ import annotations

import http.client
import json
import os
import re
import shutil
import subprocess
import time
import uuid
from collections.abc import Iterator
from contextlib import closing
from datetime import datetime
from decimal import Decimal
from pathlib import Path
from typing import Any, Literal
from urllib.parse import urlsplit

import structlog

from mindful_crate.core.catalog.goods import PackStation
from mindful_crate.core.catalog.ids import CarrierCode, PackStationCode, PersonId, PlateNo, PrinterCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.floor.prints import STOPPED, Condition, Label, Print
from mindful_crate.core.floor.shipments import Carriage
from mindful_crate.core.floor.state import State
from mindful_crate.core.plain import Misfit, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.work.leaving.acts import CarrierAnswers, CarrierIs
from mindful_crate.core.work.leaving.carriage import pieces_of
from mindful_crate.core.work.packing.acts import SetScale
from mindful_crate.core.work.packing.looking import HEAVIEST_MG
from mindful_crate.core.work.printing.acts import SetPrinter
from mindful_crate.core.world.acts import Act
from mindful_crate.core.world.events import Refused
from mindful_crate.files import labels as drawing
from mindful_crate.files import printouts
from mindful_crate.files.letters import json_of
from mindful_crate.files.texts import BadText
from mindful_crate.store import db
from mindful_crate.store.loaded import Loaded, Who
from mindful_crate.store.rows import DeliveryRow, DeviceRow, WorldRow
from mindful_crate.store.worlds import Worlds

DEVICES = Who(PersonId("devices"))
"""Whose acts they are."""
SECONDS = 2
"""So long a device is waited for."""
AGAIN = 10
"""After so many seconds one that failed is tried again."""
MOST_ANSWER = 1_000
"""Bytes of a scale's answer."""
MOST_OF_CARRIER = 1_000_000
"""Bytes of a carrier's: a tracking number for each carton of a large shipment."""
log = structlog.get_logger()


@record
class RealPrinter:
    """Where the prints of a printer go: as files into a folder, or to a print queue of this server."""

    printer: PrinterCode
    folder: str = ""
    queue: str = ""
    form: Literal["pdf", "png"] = "pdf"

    @property
    def says(self) -> str:
        """Where that is, for people; the folders of a server are nobody else's business."""
        return f"print queue {self.queue}" if self.queue else f"{self.form.upper()} files in a folder"


@record
class RealScale:
    """Where the scale of a pack station is asked what it reads, over HTTP."""

    station: PackStationCode
    address: str


@record
class RealCarrier:
    """Where a carrier is asked to take shipments, over HTTP."""

    carrier: CarrierCode
    address: str


@record
class Devices:
    """All that the administrator names."""

    printers: tuple[RealPrinter, ...] = ()
    scales: tuple[RealScale, ...] = ()
    carriers: tuple[RealCarrier, ...] = ()


def read_devices(path: Path) -> Devices:
    """What stands in the administrator's file; folders are meant from where it lies. :class:`Refusal` with what is wrong."""
    try:
        found = from_plain(Devices, json_of(path.read_bytes(), path.name))
    except OSError as error:
        raise Refusal("no_devices", f"The file of devices cannot be read: {error.strerror}.") from None
    except BadText as error:
        raise Refusal("bad_devices", error.problem.says) from None
    except Misfit as misfit:
        raise Refusal("bad_devices", f"{misfit.place}: {misfit.says}.") from None
    for says in _wrong(found):
        raise Refusal("bad_devices", says)
    printers = tuple(
        RealPrinter(p.printer, str(path.parent / p.folder) if p.folder else "", p.queue, p.form) for p in found.printers
    )
    return Devices(printers, found.scales, found.carriers)


def _wrong(found: Devices) -> Iterator[str]:
    codes = (
        [str(p.printer) for p in found.printers]
        + [str(s.station) for s in found.scales]
        + [str(c.carrier) for c in found.carriers]
    )
    for code in sorted({c for c in codes if codes.count(c) > 1}):
        yield f"`{code}` is named twice."
    for p in found.printers:
        if bool(p.folder) == bool(p.queue):
            yield f"Printer `{p.printer}` has a folder or a queue, one of them."
        if p.queue and not re.fullmatch(r"[A-Za-z0-9_][A-Za-z0-9_.-]{0,126}", p.queue):
            yield f"Printer `{p.printer}`: `{p.queue}` is no name of a print queue."
        if p.queue and p.form != "pdf":
            yield f"Printer `{p.printer}`: a print queue gets PDF."
    named = [(f"Scale of `{s.station}`", s.address) for s in found.scales]
    named += [(f"Carrier `{c.carrier}`", c.address) for c in found.carriers]
    for whose, address in named:
        parts = urlsplit(address)
        if parts.scheme not in ("http", "https") or not parts.hostname or parts.username or parts.password:
            yield f"{whose}: `{address}` is no address like http://host:port/path."


class DeviceKeeper:
    """Gives real printers of live floors what came out for them, asks real scales what they read, and real carriers whether they take a shipment."""

    def __init__(self, worlds: Worlds, devices: Devices) -> None:
        self.worlds = worlds
        self.devices = devices
        self._named: dict[str, str] = {}
        """The catalogues of the floors of which this process has said which devices there are."""
        self._after: dict[tuple[str, str], float] = {}
        """When one that failed is tried again."""
        self._read: dict[tuple[str, str], int] = {}
        """What a scale that does not say itself when it has settled read last."""

    def see_to(self, row: WorldRow) -> None:
        """See to the devices of a live floor once."""
        if self._named.get(row.id) != row.opening:
            self._name(row)
            self._named[row.id] = row.opening
        if self.devices == Devices():
            return
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, row.id) as w:
            ground, now = w.ground, w.now()
            printers, scales, stations = self._of(w)
            known = {(d.kind, d.code): d for d in db.rows(conn, DeviceRow, "devices", world=row.id)}
            sent = {p.printer: _came_out(w.state, known["printer", p.printer], now) for p in printers}
            given = db.rows(
                conn, DeliveryRow, "deliveries", world=row.id, prints=[x.number for s in sent.values() for x in s]
            )
            weighed = [s for s in scales if _weighs(w.state, stations[s.station])]
            stopped = {p.printer: w.state.prints.condition(p.printer) in STOPPED for p in printers}
            read = {s.station: w.state.scales.get(s.station) or Scale() for s in weighed}
            asked = {c.carrier: list(_asked(w, c.carrier)) for c in self._carriers(w)}
        before = {d.print for d in given}
        for printer in printers:
            due = [p for p in sent[printer.printer] if p.number not in before]
            device = known["printer", printer.printer]
            if due or device.failed:
                self._print(row, ground, printer, device, due, stopped=stopped[printer.printer])
        for scale in weighed:
            self._weigh(row, scale, read[scale.station])
        for carrier in self.devices.carriers:
            named, waits = known.get(("carrier", carrier.carrier)), asked.get(carrier.carrier, [])
            if named and (waits or named.failed):
                self._carry(row, carrier, named, waits)

    def _carriers(self, w: Loaded) -> list[RealCarrier]:
        """The real carriers that the catalogue of a floor knows."""
        return [c for c in self.devices.carriers if c.carrier in w.ground.carriers]

    def _of(self, w: Loaded) -> tuple[list[RealPrinter], list[RealScale], dict[PackStationCode, PackStation]]:
        """The real printers and scales of a floor, and its pack stations that have a scale."""
        site = w.settings.site
        stations = {
            p.code: p for p in w.ground.opening.pack_stations if p.scale and w.ground.site_of(p.bin) == site
        }  # fmt: skip
        mine = {p.code for p in w.ground.printers_of(site)}
        printers = [p for p in self.devices.printers if p.printer in mine]
        return printers, [s for s in self.devices.scales if s.station in stations], stations

    def _name(self, row: WorldRow) -> None:
        """Say which devices there are. What the administrator names no longer is a stand-in again, as one is at first."""
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, row.id) as w:
            printers, scales, _ = self._of(w)
            carriers = self._carriers(w)
            are_real = {c for c, set_ in w.state.carriers_set.items() if set_.real}
            now, before = w.now(), db.rows(conn, DeviceRow, "devices", world=row.id)
        named = {("printer", str(p.printer)): p.says for p in printers}
        named |= {("scale", str(s.station)): "read over HTTP" for s in scales}
        named |= {("carrier", str(c.carrier)): "asked over HTTP" for c in carriers}
        for gone in before:
            if (gone.kind, gone.code) in named:
                continue
            if gone.kind == "scale":
                self._act(row, SetScale(PackStationCode(gone.code), Scale()))
            elif gone.kind == "carrier":
                self._act(row, CarrierIs(CarrierCode(gone.code), real=False))
            elif gone.failed:
                self._act(row, SetPrinter(PrinterCode(gone.code), Condition.READY))
        with self.worlds.database.transaction() as conn:
            db.run(conn, "drop_devices", world=row.id, named=[f"{kind} {code}" for kind, code in named])
            for (kind, code), says in named.items():
                db.run(conn, "put_device", world=row.id, kind=kind, code=code, says=says, since=now)
        for each in carriers:
            if each.carrier not in are_real:
                self._act(row, CarrierIs(each.carrier, real=True))

    def _waits(self, row: WorldRow, code: str) -> bool:
        return time.monotonic() < self._after.get((row.id, code), 0)

    def _act(self, row: WorldRow, act: Act) -> None:
        entry = self.worlds.run(row.id, f"device:{uuid.uuid4().hex}", act, DEVICES)
        log.info("device", world=row.id, says=entry.says)

    # Printers

    def _print(
        self, row: WorldRow, ground: Ground, printer: RealPrinter, device: DeviceRow, due: list[Print], *, stopped: bool
    ) -> None:
        """Give a printer what came out for it. One that takes nothing stands as off in the log, and what is sent from then on
        waits; when it takes something again it is as it was, and gets what waits."""
        if self._waits(row, printer.printer):
            return
        try:
            _ready(printer)
            for each in due:
                self._give(row, ground, printer, each)
        except _Failed as error:
            self._after[row.id, printer.printer] = time.monotonic() + AGAIN
            if device.failed != error.says:
                self._failed(row, "printer", printer.printer, error.says)
            if not stopped:
                self._act(row, SetPrinter(printer.printer, Condition.OFF))
            return
        if device.failed:
            self._failed(row, "printer", printer.printer, "")
            self._act(row, SetPrinter(printer.printer, Condition.READY))

    def _failed(self, row: WorldRow, kind: str, code: str, says: str) -> None:
        log.warning("device", world=row.id, kind=kind, code=code, failed=says)
        with self.worlds.database.transaction() as conn:
            db.run(conn, "device_failed", world=row.id, kind=kind, code=code, failed=says)

    def _give(self, row: WorldRow, ground: Ground, printer: RealPrinter, made: Print) -> None:
        """Under a name that is always the same: given twice, when this process ends between the two, a folder has it once."""
        media = ground.printers[printer.printer]
        sheet, name, why = (
            drawing.Sheet(media.code, media.name, media.width_mm, media.height_mm),
            f"{row.id}-{made.seq:08}-{made.turn}",
            "",
        )
        try:
            if printer.form == "png" and not made.is_paper:
                files = [(f"{name}-{n}.png", drawing.png(x, sheet)) for n, x in enumerate(_labels(made), start=1)]
            else:
                files = [(f"{name}.pdf", printouts.pdf(made, sheet))]
        except Refusal as refusal:
            files, why = [], refusal.problem.says
        for file, content in files:
            _put(printer, file, content)
        with self.worlds.database.transaction() as conn:
            db.run(
                conn, "put_delivery", world=row.id, print=made.number, printer=printer.printer, at=made.due, failed=why
            )  # fmt: skip

    # Scales

    def _weigh(self, row: WorldRow, real: RealScale, scale: Scale) -> None:
        """What a scale reads, once it has settled, is what the floor's scale reads."""
        if self._waits(row, real.station):
            return
        try:
            reads_mg, settled = _ask(real.address)
        except _Failed as error:
            self._after[row.id, real.station] = time.monotonic() + AGAIN
            if not scale.down:
                self._failed(row, "scale", real.station, error.says)
                self._act(row, SetScale(real.station, Scale(down=True)))
            return
        same = self._read.get((row.id, real.station)) == reads_mg
        self._read[row.id, real.station] = reads_mg
        if (same if settled is None else settled) and scale != Scale(typed_mg=reads_mg):
            if scale.down:
                self._failed(row, "scale", real.station, "")
            self._act(row, SetScale(real.station, Scale(typed_mg=reads_mg)))

    # Carriers

    def _carry(
        self, row: WorldRow, real: RealCarrier, device: DeviceRow, asked: list[tuple[Carriage, dict[str, Any]]]
    ) -> None:
        """Ask a carrier what waits for its word. It is asked under a reference that is always the same, so asked twice it answers the same. One that does not
        answer stands as down in the log, and is asked again."""
        if self._waits(row, real.carrier):
            return
        try:
            for carriage, question in asked:
                self._answer(
                    row,
                    carriage,
                    _post(real.address, {"reference": f"{row.id}-{carriage.shipment}-{carriage.seq}", **question}),
                )
            if not asked:
                _post(real.address, {"act": "hello"})
        except _Failed as error:
            self._after[row.id, real.carrier] = time.monotonic() + AGAIN
            if device.failed != error.says:
                self._failed(row, "carrier", real.carrier, error.says)
            if not device.failed:
                self._act(row, CarrierIs(real.carrier, real=True, down=True))
            return
        if device.failed:
            self._failed(row, "carrier", real.carrier, "")
            self._act(row, CarrierIs(real.carrier, real=True))

    def _answer(self, row: WorldRow, carriage: Carriage, plain: Any) -> None:
        """What a carrier says is an act of its own; what cannot be one is no answer."""
        try:
            trackings = tuple(
                (PlateNo(str(n)), str(code).strip()) for n, code in dict(plain.get("trackings", {})).items()
            )
            price = Decimal(str(plain["price"])) if plain.get("price") is not None else None
            refused, dropped = str(plain.get("refused", "")).strip(), plain.get("dropped", False) is True
            if price is not None and not price.is_finite():
                raise ValueError
        except (ArithmeticError, AttributeError, TypeError, ValueError):
            raise _Failed("what it answers is no answer to what it was asked") from None
        if not refused and dropped is not (carriage.asked == "drop"):
            raise _Failed("what it answers is no answer to what it was asked")
        act = CarrierAnswers(carriage.shipment, carriage.seq, trackings, price, refused, dropped)
        entry = self.worlds.run(row.id, f"device:{uuid.uuid4().hex}", act, DEVICES)
        log.info("device", world=row.id, says=entry.says)
        if isinstance(entry.outcome, Refused) and entry.outcome.problem.code == "odd_answer":
            raise _Failed("what it answers is about other cartons")


class _Failed(Exception):
    """A device takes nothing, or answers nothing that can be used."""

    def __init__(self, says: str) -> None:
        super().__init__(says)
        self.says = says


def _came_out(state: State, device: DeviceRow, now: datetime) -> list[Print]:
    """What came out for a printer since it is a real one, the first first."""
    mine = [p for p in state.prints.latest() if p.printer == device.code and p.due and device.since <= p.due <= now]
    return sorted(mine, key=lambda p: (p.due or now, p.seq, p.turn))


def _weighs(state: State, station: PackStation) -> bool:
    """Does a carton stand open at a station? Nobody asks its scale otherwise."""
    return state.cartons.is_one_open(station.bin)


def _labels(made: Print) -> Iterator[Label]:
    return drawing.each((x, made.copies) for x in made.labels)


def _ready(printer: RealPrinter) -> None:
    if printer.queue:
        if shutil.which("lp") is None:
            raise _Failed("this server has no program lp, which print queues are served by")
    elif not os.path.isdir(printer.folder):
        raise _Failed("its folder does not exist")


def _put(printer: RealPrinter, name: str, content: bytes) -> None:
    try:
        if printer.queue:
            subprocess.run(
                ["lp", "-s", "-d", printer.queue, "-t", name, "-"], input=content, check=True, capture_output=True, timeout=30
            )  # fmt: skip
        else:
            new = Path(printer.folder) / f".{name}"
            new.write_bytes(content)
            os.replace(new, Path(printer.folder) / name)  # whoever looks meanwhile sees all of it or nothing
    except subprocess.CalledProcessError as error:
        says = error.stderr.decode(errors="replace").strip()[:200]
        raise _Failed(f"print queue {printer.queue} does not take it: {says or error.returncode}") from None
    except subprocess.TimeoutExpired:
        raise _Failed(f"print queue {printer.queue} does not answer") from None
    except OSError as error:
        raise _Failed(f"it cannot be written to: {error.strerror}") from None


def _asked(w: Loaded, carrier: CarrierCode) -> Iterator[tuple[Carriage, dict[str, Any]]]:
    """What a carrier was asked and has not answered: about which shipment, and in which words."""
    for carriage in sorted(w.state.carriages.values(), key=lambda c: c.seq):
        if carriage.carrier != carrier or not carriage.asked:
            continue
        if carriage.asked == "drop":
            yield carriage, {"act": "drop"}
            continue
        try:
            pieces = pieces_of(w.state, w.rulebook, carriage.shipment)
        except Refusal:
            continue  # a carton of it was opened again meanwhile: it is asked once that is closed
        leaves = w.state.shipments[carriage.shipment].leaves
        partner = w.ground.partners.get(leaves.partner)
        cartons = [
            {"number": p.number, "grams": p.weight_mg // 1000, "millilitres": p.volume_mm3 // 1000} for p in pieces
        ]
        yield carriage, {
            "act": "book", "service": carriage.service, "price": str(carriage.price), "to": [partner.name if partner else leaves.partner, *leaves.address],
            "cartons": cartons,
        }  # fmt: skip


def _post(address: str, question: dict[str, Any]) -> Any:
    """What somebody at an address answers to a question, both in JSON."""
    content = json.dumps(question).encode()
    answer = _request(address, "POST", content, MOST_OF_CARRIER)
    try:
        return json_of(answer, "carrier")
    except BadText:
        raise _Failed("what it answers is no JSON") from None


def _ask(address: str) -> tuple[int, bool | None]:
    """What a scale reads, in milligrams, and whether it has settled (None: it does not say)."""
    content = _request(address, "GET", None, MOST_ANSWER)
    try:
        plain = json_of(content, "scale")
        grams = Decimal(str(plain["grams"]))
        settled = plain.get("settled")
        reads_mg = int(grams * 1000)
    except (BadText, ArithmeticError, KeyError, TypeError, AttributeError, ValueError):
        raise _Failed("what it answers is no weight") from None
    if abs(reads_mg) > HEAVIEST_MG or settled not in (None, True, False):
        raise _Failed("what it answers is no weight")
    return reads_mg, settled


def _request(address: str, method: str, content: bytes | None, most: int) -> bytes:
    """What an address answers, of so many bytes at most. No redirect is followed and no proxy asked: only the address itself is allowed."""
    parts = urlsplit(address)
    made = http.client.HTTPSConnection if parts.scheme == "https" else http.client.HTTPConnection
    try:
        with closing(made(parts.hostname or "", parts.port, timeout=SECONDS)) as connection:
            path = (parts.path or "/") + (f"?{parts.query}" if parts.query else "")
            connection.request(method, path, content, {"Content-Type": "application/json"} if content else {})
            answer = connection.getresponse()
            said = answer.read(most)
    except (OSError, http.client.HTTPException, ValueError):
        raise _Failed("it does not answer") from None
    if answer.status != http.client.OK:
        raise _Failed(f"it answers {answer.status}")
    return said
