"""The SQL yardstick: conditions in Python, one indexed statement a target for putting, one a decision for taking."""

from __future__ import annotations

import re
from collections import defaultdict
from datetime import date
from pathlib import Path
from typing import Any

import psycopg

from mindful_crate.core.catalog.goods import LotOrder, Status, Tracking
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.rulebook.bin_rules import BinRule, Prefer, Target, Wants
from tests.bench.big import BigSite
from tests.bench.naive import Answer, Naive

TEXT = (Path(__file__).parent / "bins.sql").read_text()
STATEMENTS = dict(zip(*[iter(re.split(r"^-- name: (\w+)$", TEXT, flags=re.M)[1:])] * 2, strict=True))
PLENTY = 1 << 62


def statement_of(target: Target) -> str:
    """The statement that answers a target."""
    if target.wants is Wants.SAME_ITEM:
        return "same_item"
    if target.wants is Wants.SAME_ITEM_AND_LOT:
        return "same_item_lot"
    if target.wants is Wants.EMPTY:
        first = {Prefer.WALK_ORDER: "walk", Prefer.LOWEST_LEVEL: "level", Prefer.NEAREST_DOOR: "door"}[target.prefer[0]]
        return f"empty_{first}"
    return "any_full" if target.prefer[0] is Prefer.FULLEST else "any_walk"


class Sql(Naive):
    """The same engine over tables. Conditions, bulk and dealing out are the naive engine's; the search is SQL's."""

    def __init__(self, site: BigSite, conn: psycopg.Connection[Any]) -> None:
        super().__init__(site)
        self.conn = conn
        self.fill(site)
        self.lines = defaultdict(list)  # what taking needs comes from the tables
        self.prepared = {t.id: STATEMENTS[statement_of(t)] for r in site.putting for t in r.targets}

    def fill(self, site: BigSite) -> None:
        conn = self.conn
        conn.execute("DROP TABLE IF EXISTS stock, bin")
        conn.execute(STATEMENTS["schema"])
        door = self.by_code["DOOR-1"]  # type: ignore[index]
        with conn.cursor().copy("COPY bin FROM STDIN WITH (FORMAT BINARY)") as copy:
            copy.set_types(
                ["text", "text", *["int8"] * 4, *["bool"] * 4, "text[]", *["int8"] * 4, "bool", *["text"] * 3]
            )
            for b in self.bins:
                kind, there = self.types[b.bin_type], self.content.get(b.code)
                volume, weight, plates = (there.volume, there.weight, there.plates) if there else (0, 0, 0)
                by_volume = volume * 1_000_000 // kind.max_volume_mm3 if kind.max_volume_mm3 else 0
                by_plates = plates * 1_000_000 // kind.max_plates if kind.max_plates else 0
                only = next(iter(there.kinds)) if there and len(there.kinds) == 1 else (None, None, None)
                copy.write_row(
                    (b.code, b.zone, b.walk, b.level, self.metres(door, b), PLENTY if b.height_mm is None else b.height_mm,
                     b.blocked is not None, kind.plates.value != "none", kind.plates.value != "required", kind.mixed_items,
                     list(kind.hazard_classes), PLENTY if kind.max_volume_mm3 is None else kind.max_volume_mm3 - volume,
                     PLENTY if kind.max_weight_mg is None else kind.max_weight_mg - weight,
                     PLENTY if kind.max_plates is None else kind.max_plates - plates, max(by_volume, by_plates),
                     not (there and (there.kinds or there.plates)), only[0], only[1], only[2] and str(only[2]))
                )  # fmt: skip
        with conn.cursor().copy("COPY stock FROM STDIN WITH (FORMAT BINARY)") as copy:
            copy.set_types(["text", "text", "int8", "bool", "text", "text", "text", "date", "date", "text", "int8"])
            for item, lines in self.lines.items():
                for x in lines:
                    b = self.by_code[x["bin"]]
                    copy.write_row((x["bin"], b.zone, b.walk, b.blocked is not None, x["plate"], item, x["lot"], x["expiry"], x["arrived"], x["status"].value, x["count"]))  # fmt: skip
        conn.execute(STATEMENTS["indexes"])
        conn.commit()

    def put(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        goods = request.goods[0]
        item = self.items[goods.item]
        volume, weight = self.bulk(goods.item, goods.quantity)
        unit = item.units[0]
        height, plate = min(unit.length_mm, unit.width_mm, unit.height_mm), bool(request.plate_kind)
        if plate:
            volume, weight, height = self.plate_load(volume, weight)
        values = {
            "plate": plate, "plates": int(plate), "volume": volume, "weight": weight, "height": height, "item": goods.item,
            "lot": goods.lot, "hazard": item.hazard_class or "",
        }  # fmt: skip
        asked = []
        for rule in rules:
            if not self.applies(rule, request, goods.quantity):
                asked.append((rule.id, "", "does_not_apply"))
                continue
            for target in rule.targets:
                values["zone"] = target.look_in.zones[0]
                row = self.conn.execute(self.prepared[target.id], values, prepare=True).fetchone()
                if row:
                    asked.append((rule.id, target.id, "chosen"))
                    return [(row[0], "", goods.quantity)], 0, asked
                asked.append((rule.id, target.id, "no_bin"))
        return [], goods.quantity, asked

    def take(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        item = request.goods[0].item
        rows = self.conn.execute(STATEMENTS["take"], {"item": item, "today": request.today}, prepare=True).fetchall()
        self.lines[item] = [
            {
                "bin": r[0],
                "plate": r[3],
                "lot": r[4],
                "expiry": r[5],
                "arrived": r[6],
                "status": Status.AVAILABLE,
                "count": r[7],
            }
            for r in rows
        ]
        answer = self.deal(request, rules)
        del self.lines[item]
        return answer

    def deal(self, request: BinRequest, rules: tuple[BinRule, ...]) -> Answer:
        """Shares of the rows found, best source after best source; what leaves by expiry is sorted for it once."""
        goods, rest = request.goods[0], request.goods[0].quantity
        item = self.items[goods.item]
        fefo = item.lot_order is LotOrder.FEFO and item.tracking is not Tracking.NONE
        free = sorted(self.lines[goods.item], key=lambda x: (x["expiry"], x["arrived"], x["plate"], x["lot"]))
        zones = {b: self.by_code[b].zone for b in {x["bin"] for x in free}}
        watched = {z for r in rules if self.applies(r, request, rest) for t in r.targets for z in t.look_in.zones}
        shares: list[tuple[str, str, int]] = []
        asked: list[tuple[str, str, str]] = []
        for rule in rules:
            if rest == 0:
                break
            if not self.applies(rule, request, rest):
                asked.append((rule.id, "", "does_not_apply"))
                continue
            for target in rule.targets:
                before = rest
                wanted = set(target.look_in.zones)
                while rest:
                    found = self.one(target, [x for x in free if zones[x["bin"]] in wanted], free, zones, watched, rest, rule, fefo)  # fmt: skip
                    if found is None:
                        break
                    lines, count = found
                    for line in lines:
                        part = min(count, line["count"])
                        if part:
                            shares.append((line["bin"], line["plate"], part))
                            line["count"] -= part
                            line["broken"] = True
                            count, rest = count - part, rest - part
                    free = [x for x in free if x["count"]]
                asked.append((rule.id, target.id, "no_bin" if rest == before else "part" if rest else "chosen"))
                if not rest:
                    break
        return shares, rest, asked

    def one(self, target: Target, inside: list[dict[str, Any]], free: list[dict[str, Any]], zones: dict[str, str], watched: set[str], rest: int, rule: BinRule, fefo: bool) -> Any:  # fmt: skip
        if not inside:
            return None
        plates = target.wants is Wants.WHOLE_PLATE
        field = "plate" if plates else "bin"
        first, other, at = date.max, date.max, ""
        if fefo:
            for x in free:
                if zones[x["bin"]] in watched:
                    if not at:
                        first, at = x["expiry"], x[field] or "-"
                    elif x[field] != at:
                        other = x["expiry"]
                        break
        holders: dict[str, list[dict[str, Any]]] = {}
        for x in inside:
            if x["expiry"] <= (other if x[field] == at else first) and (
                not plates or (x["plate"] and not x.get("broken"))
            ):
                holders.setdefault(x[field], []).append(x)
        whole: dict[str, int] = {}
        if plates and holders:
            whole = dict(
                self.conn.execute(STATEMENTS["whole_plates"], {"plates": list(holders)}, prepare=True).fetchall()
            )
        best = None
        for holder, lines in holders.items():
            there = sum(x["count"] for x in lines)
            count = min(there, rest)
            if plates:
                if there != rest or whole.get(holder) != there:
                    continue
            elif count < rest and (target.wants is Wants.ONE_COVERS or not rule.split):
                continue
            key: list[Any] = []
            for prefer in target.prefer:
                if prefer is Prefer.FEFO:
                    key.append(lines[0]["expiry"])
                elif prefer is Prefer.FIFO:
                    key.append(min(x["arrived"] for x in lines))
                elif prefer is Prefer.WALK_ORDER:
                    key.append(self.by_code[lines[0]["bin"]].walk)
                elif prefer is Prefer.FEWEST_BINS:
                    key.append(-count)
                elif prefer is Prefer.SMALLEST_REMAINDER:
                    key.append(max(0, there - rest))
            full = (*key, lines[0]["bin"], lines[0]["plate"] if plates else "")
            if best is None or full < best[0]:
                best = (full, lines, count)
        return best[1:] if best else None
