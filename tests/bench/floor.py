"""Log entries of many pallets received and put away, made up; and a plain dictionary fold of them to measure against."""

from __future__ import annotations

from collections import defaultdict
from datetime import timedelta
from typing import Any

from mindful_crate.core.catalog.ids import CrewId, PersonId
from mindful_crate.core.floor.plates import in_bin, with_person
from mindful_crate.core.floor.tasks import Do, Move
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from tests.bench.big import STARTS, TODAY, BigSite


def work_made(task: Any, plate: Any, from_bin: Any, to: Any, rule: Any) -> ev.WorkMade:
    """A plate is to be put away."""
    moves = (Move(1, Do.TAKE, from_bin, (), plate), Move(2, Do.PLACE, to, (), plate, rule))
    return ev.WorkMade(task, Need.PUT_AWAY, CrewId("quay"), moves)


def taken(task: Any, plate: Any, from_bin: Any) -> tuple[ev.Event, ...]:
    """Oren takes it up."""
    oren = PersonId("oren")
    return (ev.MoveDone(task, 1, oren, from_bin, in_bin(from_bin), with_person(oren), (), plate),)


def placed(task: Any, plate: Any, to: Any) -> ev.MoveDone:
    """He places it."""
    oren = PersonId("oren")
    return ev.MoveDone(task, 2, oren, to, with_person(oren), in_bin(to), (), plate)


def entries(site: BigSite, pallets: int) -> list[ev.Entry]:
    """Five entries a pallet: begun with a line, a second line, finished with its task, taken, placed."""
    items = list(site.ground.items)
    bins = [b.code for b in site.ground.bins_by_zone["R5"] if not site.ground.stock.rows_of_bin(b.code)]  # type: ignore[index]
    found: list[ev.Entry] = []

    def add(*events: ev.Event) -> None:
        seq = len(found) + 1
        stamp = acts.Stamp(f"c{seq}", STARTS + timedelta(seconds=seq), TODAY, "oren", device="H1")  # type: ignore[arg-type]
        found.append(ev.Entry(seq, acts.Command(stamp, acts.Wait(1)), ev.Done(events, "done")))

    for n in range(pallets):
        plate, task, receipt, to = f"PL{n:07d}", f"TA{n:07d}", f"RE{n:07d}", bins[n % len(bins)]
        one, two = items[(n * 7) % len(items)], items[(n * 7 + 3) % len(items)]
        add(
            ev.NumberDrawn("plate", n + 1), ev.PlateStarted(plate, "PAL", "DOOR-1", "oren"),  # type: ignore[arg-type]
            ev.LineNoted(plate, 1, "PO-1", 1, one, "pc", 12, "", None),  # type: ignore[arg-type]
        )  # fmt: skip
        add(ev.LineNoted(plate, 2, "PO-1", 2, two, "pc", 24, f"L{n % 40}", TODAY))  # type: ignore[arg-type]
        add(
            ev.PlateFinished(plate, receipt, "oren", BookingPoint.BY_HAND),  # type: ignore[arg-type]
            work_made(task, plate, "DOOR-1", to, "R"),
        )  # fmt: skip
        add(*taken(task, plate, "DOOR-1"))
        add(placed(task, plate, to))
    return found


class Dictionaries:
    """The same fold into dictionaries that are changed in place, with the indexes decisions need: what stands where,
    plates being built, open and carried tasks, claims and sums of bins, plates and lots by item, bins changed."""

    def __init__(self, site: BigSite) -> None:
        self.items, self.pallet = site.ground.items, site.ground.plate_kinds["PAL"]  # type: ignore[index]
        self.seq, self.tick, self.clock = 0, 0, STARTS
        self.numbers: dict[str, int] = {}
        self.progress: dict[Any, list[int]] = defaultdict(lambda: [0, 0, 0])
        self.plates: dict[str, dict[str, Any]] = {}
        self.tasks: dict[str, dict[str, Any]] = {}
        self.receipts: dict[str, dict[str, Any]] = {}
        self.standing: dict[str, set[str]] = defaultdict(set)
        self.building: set[str] = set()
        self.open: dict[str, set[str]] = defaultdict(set)
        self.carried: dict[str, set[str]] = defaultdict(set)
        self.claims: dict[str, dict[str, Any]] = defaultdict(dict)
        self.coming: dict[str, set[Any]] = defaultdict(set)
        self.by_item: dict[str, set[str]] = defaultdict(set)
        self.lots: dict[Any, dict[str, Any]] = defaultdict(dict)
        self.task_of: dict[str, str] = {}
        self.changed: dict[str, int] = {}
        self.lines_of: dict[str, Any] = {}

    def touch(self, code: str) -> None:
        self.tick += 1
        self.changed.pop(code, None)
        self.changed[code] = self.tick

    def load(self, plate: dict[str, Any]) -> tuple[int, int, int, frozenset[Any]]:
        volume = weight = 0
        for (item, _), count in plate["goods"].items():
            v, w = self.items[item].bulk(count)
            volume, weight = volume + v, weight + w
        foot = self.pallet.length_mm * self.pallet.width_mm
        height = self.pallet.deck_mm + -(-volume // foot)
        return foot * height, weight + self.pallet.weight_mg, 1, frozenset(plate["goods"])

    def apply(self, entry: ev.Entry) -> None:
        if entry.seq != self.seq + 1:
            raise ValueError(entry.seq)
        self.seq, self.clock = entry.seq, max(self.clock, entry.command.stamp.at)
        for e in entry.outcome.events:  # type: ignore[union-attr]
            getattr(self, e.kind)(e, entry)

    def number_drawn(self, e: Any, _: Any) -> None:
        self.numbers[e.series] = e.next

    def plate_started(self, e: Any, entry: Any) -> None:
        self.plates[e.plate] = {"bin": e.bin, "lines": [], "goods": {}, "by": e.person, "since": entry.command.stamp.at}
        self.standing[e.bin].add(e.plate)
        self.building.add(e.plate)
        self.touch(e.bin)

    def line_noted(self, e: Any, _: Any) -> None:
        self.plates[e.plate]["lines"].append((e.order, e.order_line, e.item, e.quantity, e.lot, e.expiry))
        if e.lot:
            self.lots[e.item, e.lot][e.plate] = e.expiry
        self.progress[e.order, e.order_line][0] += e.quantity

    def plate_finished(self, e: Any, entry: Any) -> None:
        plate = self.plates[e.plate]
        for order, no, item, count, lot, _ in plate["lines"]:
            plate["goods"][item, lot] = plate["goods"].get((item, lot), 0) + count
            done = self.progress[order, no]
            done[0], done[1] = done[0] - count, done[1] + count
            self.by_item[item].add(e.plate)
            self.lines_of.pop(item, None)
        self.receipts[e.receipt] = {"plate": e.plate, "lines": plate["lines"], "booking": e.booking}
        plate.update(lines=[], receipt=e.receipt, device=entry.command.stamp.device, at=entry.command.stamp.at)
        self.building.discard(e.plate)
        self.touch(plate["bin"])

    def work_made(self, e: Any, _: Any) -> None:
        take, place = e.moves
        plate, to = take.plate, place.at
        self.tasks[e.task] = {"plate": plate, "from": take.at, "to": to, "crew": e.crew, "state": "open"}
        self.task_of[plate] = e.task
        self.open[e.crew].add(e.task)
        self.claims[to][e.task] = self.load(self.plates[plate])
        for item, _lot in self.plates[plate]["goods"]:
            self.coming[item].add((to, e.task))
        self.touch(to)

    def move_done(self, e: Any, entry: Any) -> None:
        if e.move == 2:
            return self.plate_placed(e, entry)
        task = self.tasks[e.task]
        task.update(state="taken", person=e.by)
        self.open[task["crew"]].discard(e.task)
        self.carried[e.by].add(e.task)
        plate = self.plates[e.plate]
        self.standing[plate["bin"]].discard(e.plate)
        self.touch(plate["bin"])
        plate.update(bin=None, carrier=e.by)
        for item, _lot in plate["goods"]:
            self.lines_of.pop(item, None)
        return None

    def plate_placed(self, e: Any, _: Any) -> None:
        task, plate = self.tasks[e.task], self.plates[e.plate]
        task.update(state="done", placed=e.at)
        self.carried[task["person"]].discard(e.task)
        self.claims[task["to"]].pop(e.task, None)
        for item, _lot in plate["goods"]:
            self.coming[item].discard((task["to"], e.task))
            self.lines_of.pop(item, None)
        plate.update(bin=e.at, carrier=None)
        self.standing[e.at].add(e.plate)
        self.touch(e.at)
