"""The naive engine: what one would write first. It looks at every bin for every target and sorts what fits.

It shares no search and no judgement with the application: rows are dictionaries, rules are read as they stand.
What it knows is what a rule book means; what it lacks is every trick. It covers what the rules of ``big`` use.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass
from datetime import date
from typing import Any

from mindful_crate.core.catalog.goods import LotOrder, Status
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinRule, Prefer, Target, Wants
from tests.bench.big import BigSite

Answer = tuple[list[tuple[str, str, int]], int, list[tuple[str, str, str]]]
"""Shares (bin, plate, quantity), what is left, and (rule, target, outcome) of everything asked."""


@dataclass
class Content:
    """What a bin holds."""

    volume: int = 0
    weight: int = 0
    plates: int = 0
    kinds: frozenset[tuple[str, str, str]] = frozenset()


class Naive:
    """The engine over plain dictionaries, filled once."""

    def __init__(self, site: BigSite) -> None:
        ground = site.ground
        self.items, self.types = ground.items, ground.bin_types
        self.bins = [b for z in ground.zones for b in ground.bins_by_zone[z]]
        self.by_code = ground.bins
        self.crossings = ground.sites["X"].cross_aisles  # type: ignore[index]
        self.pallet = ground.plate_kinds["PAL"]  # type: ignore[index]
        self.content: dict[str, Content] = defaultdict(Content)
        self.lines: dict[str, list[dict[str, Any]]] = defaultdict(list)
        on_plate: dict[tuple[str, str], list[int]] = {}
        for row in ground.stock:
            there = self.content[row.bin]
            volume, weight = self.bulk(row.item, row.quantity)
            if row.plate:
                sums = on_plate.setdefault((row.bin, row.plate), [0, 0])
                sums[0], sums[1] = sums[0] + volume, sums[1] + weight
            else:
                there.volume, there.weight = there.volume + volume, there.weight + weight
            there.kinds |= {(row.item, row.lot, row.status)}
            self.lines[row.item].append(
                {"bin": row.bin, "plate": row.plate or "", "lot": row.lot, "expiry": row.expiry or date.max,
                 "arrived": row.arrived or date.min, "status": row.status, "count": row.quantity}
            )  # fmt: skip
        for (code, _), (volume, weight) in on_plate.items():
            there = self.content[code]
            v, w, _ = self.plate_load(volume, weight)
            there.volume, there.weight, there.plates = there.volume + v, there.weight + w, there.plates + 1

    def bulk(self, code: str, count: int) -> tuple[int, int]:
        item, volume, weight = self.items[code], 0, 0  # type: ignore[index]
        for unit in sorted(item.units, key=lambda u: -u.quantity):
            n, count = divmod(count, unit.quantity)
            volume += n * unit.length_mm * unit.width_mm * unit.height_mm
            weight += n * unit.weight_mg
        return volume, weight

    def plate_load(self, volume: int, weight: int) -> tuple[int, int, int]:
        foot = self.pallet.length_mm * self.pallet.width_mm
        height = self.pallet.deck_mm + (volume + foot - 1) // foot
        return foot * height, weight + self.pallet.weight_mg, height

    def ask(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        """Answer a request."""
        return self.take(request, rules) if request.purpose.takes else self.put(request, rules)

    def applies(self, rule: BinRule, request: BinRequest, count: int) -> bool:
        item, when = self.items[request.goods[0].item], rule.applies
        if request.form:
            form = request.form.value
        elif request.plate_kind:
            form = "whole_plate"
        else:
            form = "case" if count % 12 == 0 else "each"
        return (
            (not when.groups or item.group in when.groups)
            and (not when.hazard_classes or item.hazard_class in when.hazard_classes)
            and (not when.velocity_classes or item.velocity_class in when.velocity_classes)
            and (not when.unit_forms or form in {f.value for f in when.unit_forms})
        )

    def metres(self, a: Any, b: Any) -> int:
        across = abs(a.x_mm - b.x_mm)
        if a.aisle == b.aisle:
            return across + abs(a.y_mm - b.y_mm)
        return min(across + abs(a.y_mm - y) + abs(b.y_mm - y) for y in self.crossings)

    def put(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        goods = request.goods[0]
        volume, weight = self.bulk(goods.item, goods.quantity)
        units = self.items[goods.item].units
        height = min(units[0].length_mm, units[0].width_mm, units[0].height_mm)
        if request.plate_kind:
            volume, weight, height = self.plate_load(volume, weight)
        asked = []
        for rule in rules:
            if not self.applies(rule, request, goods.quantity):
                asked.append((rule.id, "", "does_not_apply"))
                continue
            for target in rule.targets:
                fitting = []
                for each in self.bins:
                    if each.zone in target.look_in.zones and self.fits(each, target, request, volume, weight, height):
                        fitting.append(each)
                if fitting:
                    best = min(fitting, key=lambda b: self.key(b, target, request))
                    asked.append((rule.id, target.id, "chosen"))
                    return [(best.code, "", goods.quantity)], 0, asked
                asked.append((rule.id, target.id, "no_bin"))
        return [], goods.quantity, asked

    def fits(self, each: Any, target: Target, request: BinRequest, volume: int, weight: int, height: int) -> bool:
        kind, there, goods = self.types[each.bin_type], self.content.get(each.code, Content()), request.goods[0]
        on_plate = bool(request.plate_kind)
        if (
            each.blocked
            or (kind.plates.value == "required" and not on_plate)
            or (kind.plates.value == "none" and on_plate)
        ):
            return False
        hazard = self.items[goods.item].hazard_class
        if (hazard and hazard not in kind.hazard_classes) or (each.height_mm is not None and height > each.height_mm):
            return False
        if target.wants is Wants.EMPTY and (there.kinds or there.plates):
            return False
        if target.wants is Wants.SAME_ITEM and goods.item not in {k[0] for k in there.kinds}:
            return False
        if target.wants is Wants.SAME_ITEM_AND_LOT and (goods.item, goods.lot) not in {k[:2] for k in there.kinds}:
            return False
        if not kind.mixed_items and any(k != (goods.item, goods.lot, goods.status) for k in there.kinds):
            return False
        return (
            (kind.max_plates is None or there.plates + on_plate <= kind.max_plates)
            and (kind.max_weight_mg is None or there.weight + weight <= kind.max_weight_mg)
            and (kind.max_volume_mm3 is None or there.volume + volume <= kind.max_volume_mm3)
        )

    def key(self, each: Any, target: Target, request: BinRequest) -> tuple[Any, ...]:
        there, kind = self.content.get(each.code, Content()), self.types[each.bin_type]
        key: list[Any] = []
        for prefer in target.prefer:
            if prefer is Prefer.WALK_ORDER:
                key.append(each.walk)
            elif prefer is Prefer.LOWEST_LEVEL:
                key.append(each.level)
            elif prefer is Prefer.NEAREST_DOOR:
                key.append(self.metres(self.by_code[request.door], each))  # type: ignore[index]
            elif prefer is Prefer.FULLEST:
                by_volume = there.volume * 1_000_000 // kind.max_volume_mm3 if kind.max_volume_mm3 else 0
                by_plates = there.plates * 1_000_000 // kind.max_plates if kind.max_plates else 0
                key.append(-max(by_volume, by_plates))
        return (*key, each.code)

    def take(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        goods = request.goods[0]
        item, rest = self.items[goods.item], goods.quantity
        free = [
            dict(x)
            for x in self.lines[goods.item]
            if x["status"] is Status.AVAILABLE and not self.by_code[x["bin"]].blocked and x["expiry"] >= request.today
        ]
        watched = {z for r in rules if self.applies(r, request, rest) for t in r.targets for z in t.look_in.zones}
        shares, asked = [], []
        for rule in rules:
            if rest == 0:
                break
            if not self.applies(rule, request, rest):
                asked.append((rule.id, "", "does_not_apply"))
                continue
            for target in rule.targets:
                before = rest
                while rest:
                    found = self.sources(target, free, rest, rule, item, watched)
                    if not found:
                        break
                    lines, count = found
                    for line in sorted(lines, key=lambda x: (x["expiry"], x["arrived"], x["plate"], x["lot"])):
                        part = min(count, line["count"])
                        if part:
                            shares.append((line["bin"], line["plate"], part))
                            line["count"] -= part
                            if line["plate"]:
                                line["broken"] = True
                            count, rest = count - part, rest - part
                    free = [x for x in free if x["count"]]
                asked.append((rule.id, target.id, "no_bin" if rest == before else "part" if rest else "chosen"))
                if not rest:
                    break
        applying = [r for r in rules if self.applies(r, request, rest or goods.quantity)]
        if rest and item.lot_order is LotOrder.FEFO and applying:
            pass  # every rule that watches also takes: there is no reserve to ask for in these rules
        return shares, rest, asked

    def sources(self, target: Target, free: list[dict[str, Any]], rest: int, rule: BinRule, item: Any, watched: set[str]) -> Any:  # fmt: skip
        plates = target.wants is Wants.WHOLE_PLATE
        inside = [x for x in free if self.by_code[x["bin"]].zone in target.look_in.zones]
        holders: dict[str, list[dict[str, Any]]] = defaultdict(list)
        for line in inside:
            holder = line["plate"] if plates else line["bin"]
            if item.lot_order is LotOrder.FEFO:
                elsewhere = [
                    x["expiry"]
                    for x in free
                    if self.by_code[x["bin"]].zone in watched and (x["plate"] if plates else x["bin"]) != holder
                ]
                if elsewhere and line["expiry"] > min(elsewhere):
                    continue
            if not plates or (holder and not line.get("broken")):
                holders[holder].append(line)
        best = None
        for lines in holders.values():
            there = sum(x["count"] for x in lines)
            if plates:
                whole = sum(x["count"] for x in self.lines[item.code] if x["plate"] == lines[0]["plate"])
                if there != whole or there != rest:
                    continue
                count = there
            else:
                count = min(there, rest)
                if count < rest and (target.wants is Wants.ONE_COVERS or not rule.split):
                    continue
            each, key = self.by_code[lines[0]["bin"]], []
            for prefer in target.prefer:
                if prefer is Prefer.FEFO:
                    key.append(min(x["expiry"] for x in lines).toordinal())
                elif prefer is Prefer.FIFO:
                    key.append(min(x["arrived"] for x in lines).toordinal())
                elif prefer is Prefer.WALK_ORDER:
                    key.append(each.walk)
                elif prefer is Prefer.FEWEST_BINS:
                    key.append(-min(there, rest))
                elif prefer is Prefer.SMALLEST_REMAINDER:
                    key.append(max(0, there - rest))
            full = (*key, each.code, lines[0]["plate"] if plates else "")
            if best is None or full < best[0]:
                best = (full, lines, count)
        return best[1:] if best else None
