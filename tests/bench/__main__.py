"""``./crate bench [name] [--json]``: every bench, or one; ratios, sizes and the machine."""

from __future__ import annotations

import argparse
import json
import os
import platform
import sys
import traceback
from collections.abc import Callable, Iterator

from tests.bench import (
    allocating,
    cartons,
    chapters,
    counting,
    days,
    first,
    grounds,
    handsets,
    house,
    leaving,
    maps,
    measures,
    papers,
    picked,
    pickers,
    picking,
    previews,
    receiving,
    releases,
    streams,
    walking,
    waves,
    waving,
)
from tests.bench.measures import Line

BENCHES: dict[str, Callable[[], Iterator[Line]]] = {
    "bins": measures.bins,
    "explain": measures.explaining,
    "opening": measures.opening_states,
    "fold": measures.folding,
    "house": house.house,
    "store": measures.storing,
    "handsets": handsets.handsets,
    "streams": streams.streams,
    "import": grounds.importing,
    "asking": grounds.asking,
    "messages": grounds.messages,
    "map": maps.maps,
    "chapters": chapters.chapters,
    "cartons": cartons.cartons,
    "walking": walking.walking,
    "tours": walking.tours,
    "waves": waves.waves,
    "plans": waves.plans,
    "papers": papers.papers,
    "packing": leaving.packing,
    "staging": leaving.staging,
    "epcis": leaving.epcis,
    "counting": counting.counting,
    "days": days.days,
    "first": first.first,
    "previews": previews.previews,
    "receiving": receiving.receiving,
    "releases": releases.releases,
    "waving": waving.waving,
    "allocating": allocating.allocating,
    "picking": picking.picking,
    "picked": picked.picked,
    "pickers": pickers.pickers,
}


def machine() -> str:
    """What the figures were measured on."""
    model = "unknown processor"
    with open("/proc/cpuinfo", encoding="utf-8") as info:
        model = next((line.split(":")[1].strip() for line in info if line.startswith("model name")), model)
    return f"{model}, {os.cpu_count()} cores, Python {platform.python_version()}, Linux"


def main() -> int:
    """Run and print."""
    parser = argparse.ArgumentParser(prog="crate bench")
    parser.add_argument("names", nargs="*", choices=[*BENCHES, []])
    parser.add_argument("--json", action="store_true")
    args = parser.parse_args()
    lines = []
    broken = []
    for name in args.names or BENCHES:
        try:
            for line in BENCHES[name]():
                lines.append({"bench": name, **line.plain()})
                if not args.json:
                    print(line.told(), flush=True)
        except Exception:  # the figures of the others are wanted all the same
            broken.append(name)
            print(f"The bench {name} broke off:\n{traceback.format_exc()}", file=sys.stderr)
    if args.json:
        print(json.dumps({"machine": machine(), "lines": lines}, indent=1))
    else:
        print(f"\nMachine: {machine()}")
    return 1 if broken else 0


if __name__ == "__main__":
    sys.exit(main())
