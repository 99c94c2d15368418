"""Ways to pick a wave, side by side: what is walked, and what each asks for besides walking."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from mindful_crate.core.record import record
from mindful_crate.core.releasing.sharing import share
from mindful_crate.core.releasing.splitting import Caps, Picked, Split, Wave
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.walking.rounds import Rounds


@record
class Compared:
    """A method on a wave: its carts, the metres of all and of whoever walks most, scans at the sort station, and hand-overs."""

    method: Method
    split: Split
    mm: int
    longest_mm: int
    sort_scans: int = 0
    hand_overs: int = 0


def compared(
    orders: Sequence[Picked], rounds: Rounds, caps: Caps, *, pickers: int, batch_lines: int, zones: Mapping[int, Rounds],
    effort: int, seed: int = 1,
) -> list[Compared]:  # fmt: skip
    """The methods on one wave. ``batch_lines``: how many lines a cart holds that is sorted afterwards. ``zones``: for each bin by number
    the rounds of its zone, from where carts are handed over there; empty when there are none. ``effort``: rounds of improving."""
    wave = Wave(orders, rounds, caps)
    alone, cluster = wave.one_by_one(), wave.shortest_found(effort, seed)
    lines = [replace(o, totes=min(max(1, o.lines), batch_lines)) for o in orders]
    batch = Wave(lines, rounds, Caps(batch_lines, caps.weight_mg)).shortest_found(effort, seed)
    found = [
        Compared(Method.ORDER, alone, alone.mm, share(alone.metres, pickers).longest),
        Compared(Method.CLUSTER, cluster, cluster.mm, share(cluster.metres, pickers).longest),
        Compared(
            Method.BATCH,
            batch,
            batch.mm,
            share(batch.metres, pickers).longest,
            sort_scans=sum(max(1, o.lines) for o in orders),
        ),
    ]
    if zones:
        found.append(_by_zones(orders, cluster, zones))
    return found


def _by_zones(orders: Sequence[Picked], cluster: Split, zones: Mapping[int, Rounds]) -> Compared:
    """Each zone's picker takes each cart around its own zone, from where it is handed over and back."""
    walked: dict[Rounds, int] = {}
    hand_overs = 0
    for cart in cluster.carts:
        by_zone: dict[Rounds, list[int]] = {}
        for n in cart:
            for stop in orders[n].stops:
                by_zone.setdefault(zones[stop], []).append(stop)
        for rounds, stops in by_zone.items():
            walked[rounds] = walked.get(rounds, 0) + rounds.over([rounds.ready(stops)])
        hand_overs += len(by_zone) - 1
    return Compared(Method.ZONES, cluster, sum(walked.values()), max(walked.values(), default=0), hand_overs=hand_overs)
