"""The state of a world: its ground, and over it keepers of what the log has changed.

Only folding puts; deciding reads, and what it has decided so far is folded under the journal, to stay with the entry or to be
taken back. Whatever is asked once a scan is answered from an index, so that a world does not slow down as its log grows.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import AbstractContextManager
from datetime import datetime
from enum import StrEnum
from functools import partial
from typing import Any

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    CountNo,
    DeviceId,
    DialogueNo,
    ItemCode,
    MessageNo,
    NoticeNo,
    OrderNo,
    PackStationCode,
    PersonId,
    PlateNo,
    PrinterCode,
    ReceiptNo,
    ReservationNo,
    RuleId,
    ShipmentNo,
    SiteCode,
    TaskNo,
    UnloadingNo,
    WaveNo,
    WavePlanId,
)
from mindful_crate.core.catalog.notices import Notice, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, LineKey
from mindful_crate.core.floor.bins import Bins
from mindful_crate.core.floor.cartons import Carton, Cartons, Loaded
from mindful_crate.core.floor.counts import BinCounted, Counts, CountSheet
from mindful_crate.core.floor.covers import Cover, Covers, at_opening
from mindful_crate.core.floor.devices import CarrierStandIn, Scale, Synced
from mindful_crate.core.floor.dialogues import Dialogue, Dialogues
from mindful_crate.core.floor.keeper import Journal, Keeper, Single
from mindful_crate.core.floor.ledger import Account, Ledger
from mindful_crate.core.floor.messages import Message, Messages
from mindful_crate.core.floor.numbers import Numbers
from mindful_crate.core.floor.orders import HostOrder, LineProgress, Orders
from mindful_crate.core.floor.overruled import Overruled
from mindful_crate.core.floor.past import Memory, Past
from mindful_crate.core.floor.plates import Card, Load, Lots, Plate, PlateLine, Plates, Spot
from mindful_crate.core.floor.prints import Condition, Print, Prints
from mindful_crate.core.floor.receipts import Receipt, Receipts
from mindful_crate.core.floor.reservations import Reservation, Reservations
from mindful_crate.core.floor.rests import Rest, Rests
from mindful_crate.core.floor.returns import Marked, ReturnBuild, Returned
from mindful_crate.core.floor.serials import Lies, SerialKey, SerialNumbers
from mindful_crate.core.floor.shipments import (
    Carriage,
    Departure,
    Departures,
    Release,
    Shipment,
    Shipments,
    WordSaid,
)
from mindful_crate.core.floor.steps_done import StepDone
from mindful_crate.core.floor.task_keeper import Tasks
from mindful_crate.core.floor.tasks import Going, Plan, Serves
from mindful_crate.core.floor.till import TILL, Till
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.floor.touched import Touched
from mindful_crate.core.floor.unloadings import Unloading, Unloadings
from mindful_crate.core.floor.waves import Awaited, ByClock, Wave, Waves
from mindful_crate.core.plain import Plain, from_plain, to_plain
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.gates import Placed

SNAPSHOT = 26
"""Version of the snapshot's shape; a snapshot of another version is made anew from the log."""


class WorldKind(StrEnum):
    """Only a live world sends anything outside."""

    REHEARSAL = "rehearsal"
    LIVE = "live"


@record
class Settings:
    """What a world is made with, besides its opening state and rulebook."""

    site: SiteCode
    starts: datetime
    kind: WorldKind = WorldKind.REHEARSAL
    act_seconds: int = 10
    """In a rehearsal, what the clock moves on with each command."""
    host: HostStandIn = HostStandIn()


@record
class Kept:
    """What a snapshot holds: how far the log was, and everything of every keeper, in the order it is put back."""

    seq: int
    clock: datetime
    host: HostStandIn
    rules_taken: dict[str, str]
    next_numbers: dict[str, int]
    orders: dict[OrderNo, Order]
    host_orders: dict[OrderNo, HostOrder]
    confirmed: dict[OrderNo, int]
    cancelled: dict[OrderNo, int]
    notices: dict[NoticeNo, Notice]
    progress: dict[LineKey, LineProgress]
    unloadings: dict[UnloadingNo, Unloading]
    spots: dict[PlateNo, Spot]
    on_plates: dict[PlateNo, tuple[Goods, ...]]
    cards: dict[PlateNo, Card]
    lines_noted: dict[PlateNo, tuple[PlateLine, ...]]
    loose_now: dict[BinCode, tuple[Goods, ...]]
    blocks: dict[BinCode, str]
    accounts: dict[Account, int]
    serials: dict[SerialKey, Lies]
    plans: dict[TaskNo, Plan]
    going: dict[TaskNo, Going]
    rests: dict[str, Rest]
    receipts: dict[ReceiptNo, Receipt]
    messages: dict[MessageNo, Message]
    dialogues: dict[DialogueNo, Dialogue]
    devices: dict[DeviceId, Synced]
    receipts_counted: dict[str, int]
    samples_failed: dict[str, int]
    steps_done: dict[PersonId, StepDone]
    overruled: dict[RuleId, Overruled]
    reservations: dict[ReservationNo, Reservation]
    covers: dict[LineKey, Cover]
    ties: dict[LineKey, tuple[Serves, ...]]
    gates_given: dict[OrderNo, tuple[Placed, ...]]
    words_said: dict[OrderNo, tuple[WordSaid, ...]]
    releases: dict[OrderNo, Release]
    shipments: dict[ShipmentNo, Shipment]
    cartons: dict[PlateNo, Carton]
    loaded: dict[str, Loaded]
    departures: dict[ShipmentNo, Departure]
    scales: dict[PackStationCode, Scale]
    carriages: dict[ShipmentNo, Carriage]
    carriers_set: dict[CarrierCode, CarrierStandIn]
    returning: dict[DeviceId, ReturnBuild]
    returned: dict[LineKey, Marked]
    counts: dict[CountNo, CountSheet]
    bins_counted: dict[BinCode, BinCounted]
    movements: dict[BinCode, int]
    found_otherwise: dict[BinCode, int]
    tills: dict[str, Till]
    till_says: dict[ItemCode, int]
    waves: dict[WaveNo, Wave]
    waves_awaited: dict[WavePlanId, Awaited]
    runs_awaited: dict[ByClock, Awaited]
    printer_conditions: dict[PrinterCode, Condition]
    prints: dict[str, Print]
    printers_chosen: dict[DeviceId, PrinterCode]


class State:
    """A world as it stands after ``seq`` log entries. What is settled is in its ``past``."""

    def __init__(self, ground: Ground, settings: Settings, past: Past | None = None) -> None:
        self.ground = ground = ground.at(settings.site)
        self.past: Past = Memory() if past is None else past
        self.settings = settings
        self.seq = 0
        self.journal = journal = Journal()
        self.touched = touched = Touched()
        lots = Lots()
        self.time = Single(journal, settings.starts)
        """When it is in this world."""
        self._host = Single(journal, settings.host)
        self.rules_taken: Keeper[str, str] = Keeper(journal)
        """The hashes of rules that were put in force here, by the number of the entry."""
        self.next_numbers = Numbers(journal, ground, settings.kind is WorldKind.REHEARSAL)
        self.ordered = Orders(journal, ground)
        drawn = self.next_numbers.was_drawn
        self.plates = Plates(journal, ground, touched, lots, self.past, partial(drawn, "receipt"))
        self.bins = Bins(journal, ground, touched, lots, self.plates)
        self.serials = SerialNumbers(journal, ground)
        """Where each piece is of items that are kept by serial numbers."""
        self.ledger = Ledger(journal, self.bins, self.plates, self.serials)
        self.tasks = Tasks(journal, self.bins, self.past, partial(drawn, "task"))
        self.rests = Rests(journal)
        self.unloadings = Unloadings(journal)
        self.receipts = Receipts(journal, self.past, DocKind.RECEIPT)
        self.messages = Messages(journal, self.past)
        self.may_settle = (self.tasks.going.may_leave, self.receipts.may_leave, self.messages.may_leave)
        """Tasks, receipts, messages that may be settled since they changed."""
        self.dialogues = Dialogues(journal)
        self.devices: Keeper[DeviceId, Synced] = Keeper(journal)
        """What the handsets of a live floor were given last."""
        self.receipts_counted: Keeper[str, int] = Keeper(journal)
        """How many receipts of an item came from a partner, where every how-manyeth is inspected."""
        self.samples_failed: Keeper[str, int] = Keeper(journal)
        """Goods of which a sample was not as it should be, with the entry: all of them are looked at."""
        self.steps_done: Keeper[PersonId, StepDone] = Keeper(journal)
        """The last step everybody has finished, as far as it may be undone."""
        self.overruled: Keeper[RuleId, Overruled] = Keeper(journal)
        """How often another bin was taken than a rule had chosen."""
        self.reservations = Reservations(journal)
        self.covers = Covers(journal, lambda: at_opening(ground, settings.site, settings.starts.date()))
        """How the lines of orders that go out are promised."""
        self.ties: Keeper[LineKey, tuple[Serves, ...]] = Keeper(journal)
        """Of lines that come in: which lines that go out get how much of them straight away."""
        self.gates_given: Keeper[OrderNo, tuple[Placed, ...]] = Keeper(journal)
        """The gates orders have of their own, as they were when they reached the floor, in the order in which they come to them."""
        self.words_said: Keeper[OrderNo, tuple[WordSaid, ...]] = Keeper(journal)
        """What was said to orders at gates that ask for somebody's word, once for each gate."""
        self.releases: Keeper[OrderNo, Release] = Keeper(journal)
        """Orders that are released and have not left."""
        self.shipments = Shipments(journal)
        self.cartons = Cartons(journal)
        self.cartons.told = lambda plate, there: self.reservations.set_apart(plate, packed=there)
        self.loaded: Keeper[str, Loaded] = Keeper(journal)
        """What stands on trucks: plates by their numbers, and loose goods by their orders."""
        self.departures = Departures(journal)
        """Shipments that have left."""
        self.scales: Keeper[PackStationCode, Scale] = Keeper(journal)
        """How the scales of pack stations behave, where they do not as they should."""
        self.carriages: Keeper[ShipmentNo, Carriage] = Keeper(journal)
        """Shipments that were booked with a carrier."""
        self.carriers_set: Keeper[CarrierCode, CarrierStandIn] = Keeper(journal)
        """How carriers behave, where they do not as they should."""
        self.returning: Keeper[DeviceId, ReturnBuild] = Keeper(journal)
        """What is taken back on handsets, while it is scanned."""
        self.returned = Returned(journal)
        self.counts = Counts(journal, self.past, partial(drawn, "count"))
        self.bins_counted: Keeper[BinCode, BinCounted] = Keeper(journal)
        """When bins were counted last, of those that ever were."""
        self.found_otherwise: Keeper[BinCode, int] = Keeper(journal)
        """Bins in which more was found, or other, than the books said, with the entry: they may hold what their type forbids."""
        self.tills: Keeper[str, Till] = Keeper(journal)
        """The till of the site, if it has one; under one name."""
        self.till_says: Keeper[ItemCode, int] = Keeper(journal)
        """What the till says of each item, in base units."""
        self.waves = Waves(journal)
        self.waves_awaited: Keeper[WavePlanId, Awaited] = Keeper(journal)
        """Plans for which orders wait, with when they run next."""
        self.runs_awaited: Keeper[ByClock, Awaited] = Keeper(journal)
        """When orders that wait are released by the clock, bins counted, shelves filled next."""
        self.prints = Prints(journal)
        self.printers_chosen: Keeper[DeviceId, PrinterCode] = Keeper(journal)
        """Where handsets print that have scanned a printer."""
        self.memory: dict[Any, Any] = {}
        """What placing works out for this world; it follows :meth:`changed_since`."""
        self._answers()

    def _answers(self) -> None:
        """What others ask, straight from who knows it: no second hop where placing asks bin by bin."""
        orders, plates, bins, tasks = self.ordered, self.plates, self.bins, self.tasks
        self.number = self.next_numbers.number
        self.orders, self.host_orders, self.notices = orders.told, orders.in_host, orders.notices
        self.confirmed, self.cancelled, self.progress = orders.confirmed, orders.cancelled, orders.progress
        self.order, self.all_orders, self.host_order = orders.order, orders.all_orders, orders.host_order
        self.is_confirmed, self.is_cancelled = orders.is_confirmed, orders.is_cancelled
        self.line_progress, self.open_quantity = orders.line_progress, orders.open_quantity
        self.lines_open = orders.lines_open
        self.has_plate, self.plate, self.bin_of = plates.has_plate, plates.plate, plates.bin_of
        self.has_task = tasks.has_task
        self.has_wave = self.waves.has_wave
        self.has_count = self.counts.has_count
        self.has_shipment = self.shipments.has_shipment
        self.plates_on, self.nested, self.all_goods = plates.plates_on, plates.nested, plates.all_goods
        self.holds_just, self.standing, self.building = plates.holds_just, plates.standing, plates.building
        self.loose_now, self.blocks, self.blocked = bins.loose_now, bins.blocks, bins.blocked
        self.loose, self.held, self.held_without = bins.loose, bins.held, bins.held_without
        self.holds_goods, self.load, self.quantity_in = bins.holds_goods, bins.load, bins.quantity_in
        self.coming, self.lines, self.bins_with = bins.coming, bins.lines, bins.bins_with
        self.lot_expiry, self.changed_since = bins.lot_expiry, self.touched.changed_since
        self.task_of, self.unplaced, self.claim_of = tasks.task_of, tasks.unplaced, tasks.claim_of
        self.open_tasks, self.open_count, self.first_loose = tasks.open_tasks, tasks.open_count, tasks.first_loose
        self.carried = tasks.carried
        self.talking = self.dialogues.talking
        self.has_reservations, self.reserved = self.reservations.has_reservations, self.reservations.reserved
        self.reservations_of = self.reservations.reservations_of
        self.messages_about, self.first_open = self.messages.messages_about, self.messages.first_open
        self.messages_left = self.messages.about
        self.to_send, self.waiting = self.messages.to_send, self.messages.waiting

    @property
    def clock(self) -> datetime:
        """When it is in this world."""
        return self.time.value

    @property
    def rules(self) -> str:
        """The hash of the rules that hold; empty: those the world was made with."""
        taken = self.rules_taken
        return taken[max(taken.all(), key=int)] if len(taken) else ""

    def given_to(self, device: DeviceId | None) -> str:
        """The hash of the rules a handset was given; of one that was given none, of those that hold."""
        known = self.devices.get(device) if device else None
        return self.rules if known is None else known.rules

    @property
    def host(self) -> HostStandIn:
        """How the host stand-in behaves."""
        return self._host.value

    def put_host(self, host: HostStandIn) -> None:
        """It behaves otherwise from now on."""
        self._host.put(host)

    @property
    def till(self) -> Till | None:
        """The till of the site, if it has one."""
        return self.tills.get(TILL)

    def open_orders(self) -> Iterator[Order]:
        """The orders of the site, as the host has them too, that are not cancelled and not gone."""
        site, gone = self.settings.site, self.ordered.is_shipped
        return (o for o in self.all_orders() if o.site == site and not self.is_cancelled(o.number) and not gone(o))

    @property
    def tick(self) -> int:
        """Goes up with every change of a bin."""
        return self.touched.tick

    @property
    def blocks_tick(self) -> int:
        """Goes up whenever a bin is blocked or freed."""
        return self.bins.blocks.tick

    def settle(self) -> None:
        """Let go of the documents that are settled since the last entry: the past keeps them."""
        tasks, receipts, messages, seq = self.tasks, self.receipts, self.messages, self.seq
        if tasks.going.may_leave:
            cards, keep = self.plates.cards, self.past.keep
            for task in tasks.leaving():
                keep(task, seq)
                for number in (*(c.receipt for p in task.plan.plates if (c := cards.get(p))), *task.receipts):
                    if number and (receipt := receipts.here(number)) and receipt.booked:
                        receipts.may_leave[number] = None
        if receipts.may_leave:
            for done in receipts.leaving(self._busy):
                self.past.keep(done, seq)
                load = self.plates.cards.get(done.plate) if done.loose else None
                if load:
                    self.past.keep(Load(done.plate, load), seq)
                    self.plates.cards.put(done.plate, None)
        if messages.may_leave:
            for message in messages.leaving():
                self.past.keep(message, seq)
        if self.counts.may_leave:
            for sheet in self.counts.leaving():
                self.past.keep(sheet, seq)

    def _busy(self, receipt: Receipt) -> bool:
        """Are its goods still being put away?"""
        number, plate = receipt.number, receipt.plate
        return bool(self.tasks.unplaced(number)) or self.tasks.busy_with(plate) or self.rests.has_receipt(number, plate)

    def tentatively(self) -> AbstractContextManager[None]:
        """Whatever is put within is taken back at the end."""
        return self.journal.tentatively()

    def announced(self, number: PlateNo) -> tuple[Notice, NoticePlate] | None:
        """The notice that announces a plate which is not here yet, and what it says of it."""
        return None if self.has_plate(number) else self.ordered.announced(number)

    def announced_of(self, order: OrderNo) -> list[NoticePlate]:
        """Plates of an order that are on their way."""
        return [p for p in self.ordered.announced_of(order) if not self.has_plate(p.number)]

    def due(self, until: datetime) -> Message | None:
        """The next message the host stand-in sees to by ``until``; none where a real host does."""
        return None if self.host.outside else self.messages.due(until)

    def stock(self) -> Iterator[tuple[BinCode | None, Plate | None, Goods]]:
        """All stock as (bin or None while carried, plate or None, goods), by bin, plate, item."""
        for code, number, goods in self.bins.stock():
            yield code, self.plate(number) if number else None, goods
        for _, plate, goods in self.stock_in_hands():
            yield None, plate, goods

    def stock_in_hands(self) -> Iterator[tuple[TaskNo, Plate | None, Goods]]:
        """Stock in somebody's hands as (task, plate or None, goods), by task."""
        for task in self.tasks.all_carried():
            going = self.tasks.going[task]
            for each in (each for plate in going.carried for each in self.plates.tower(plate)):
                for goods in self.plates.goods_on(each):
                    yield task, self.plate(each), goods
            for goods in going.hands:
                yield task, None, goods

    # Snapshots

    def _keepers(self) -> dict[str, Keeper[Any, Any]]:
        """Every keeper by its name in :class:`Kept`."""
        orders, plates = self.ordered, self.plates
        return {
            "rules_taken": self.rules_taken, "next_numbers": self.next_numbers, "orders": orders.told,
            "host_orders": orders.in_host, "confirmed": orders.confirmed, "cancelled": orders.cancelled,
            "notices": orders.notices, "progress": orders.progress, "unloadings": self.unloadings, "spots": plates.spots,
            "on_plates": plates.goods, "cards": plates.cards, "lines_noted": plates.lines, "loose_now": self.loose_now, "blocks": self.blocks,
            "accounts": self.ledger.accounts, "serials": self.serials.moved,
            "plans": self.tasks.plans, "going": self.tasks.going, "rests": self.rests, "receipts": self.receipts, "messages": self.messages,
            "dialogues": self.dialogues, "devices": self.devices, "receipts_counted": self.receipts_counted,
            "samples_failed": self.samples_failed, "steps_done": self.steps_done, "overruled": self.overruled, "reservations": self.reservations, "covers": self.covers,
            "ties": self.ties, "gates_given": self.gates_given, "words_said": self.words_said, "releases": self.releases, "shipments": self.shipments,
            "cartons": self.cartons, "loaded": self.loaded, "departures": self.departures, "scales": self.scales, "carriages": self.carriages, "carriers_set": self.carriers_set, "returning": self.returning, "returned": self.returned, "counts": self.counts, "bins_counted": self.bins_counted, "movements": self.ledger.movements, "found_otherwise": self.found_otherwise, "tills": self.tills, "till_says": self.till_says, "waves": self.waves,
            "waves_awaited": self.waves_awaited, "runs_awaited": self.runs_awaited,
            "printer_conditions": self.prints.conditions, "prints": self.prints, "printers_chosen": self.printers_chosen,
        }  # fmt: skip

    def keep(self) -> Plain:
        """Plain data from which :meth:`load_snapshot` makes an equal state over the same ground."""
        return to_plain(self.kept())

    def kept(self) -> Kept:
        """What a snapshot holds, in dictionaries of its own: what is in them never changes, so it may be read later. Two
        states are equal when this is."""
        return Kept(self.seq, self.clock, self.host, **{name: keeper.all() for name, keeper in self._keepers().items()})

    @classmethod
    def load_snapshot(cls, ground: Ground, settings: Settings, plain: Plain, past: Past | None = None) -> State:
        """The state a snapshot was kept from; its indexes follow as everything is put. What was settled by then is in the
        past."""
        state, kept = cls(ground, settings, past), from_plain(Kept, plain)
        state.seq = kept.seq
        state.time.put(kept.clock)
        state.put_host(kept.host)
        for name, keeper in state._keepers().items():
            keeper.load(getattr(kept, name))
        return state
