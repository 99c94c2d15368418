"""The kinds of prompt a flow is composed of: what each accepts, fills in, proposes and shows.

One small class a kind; ``registry`` lists them all. The interpreter in ``dialogue`` knows no kind by name.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from datetime import date
from decimal import Decimal
from typing import Any

from mindful_crate.core.catalog.goods import Item, ItemUnit, Order
from mindful_crate.core.catalog.ids import BinCode, CrewId, DeviceId, PersonId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.slots import Doubt, Slots
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow, OtherBin, Prompt
from mindful_crate.core.scanning.question import Keys, Pick, Shape
from mindful_crate.core.scanning.reading import Read, Reading, told
from mindful_crate.core.work.receiving import checks as receiving

LISTED = 30
"""How many picks a handset lists."""


@dataclass(frozen=True, slots=True)
class Context:
    """All a prompt may look at."""

    state: State
    rulebook: Rulebook
    flow: Flow
    person: PersonId
    crews: tuple[CrewId, ...]
    device: DeviceId | None
    today: date

    @property
    def ground(self) -> Ground:
        """The catalogue."""
        return self.state.ground

    def order(self, slots: Slots) -> Order:
        """The order being received."""
        assert slots.order is not None
        return receiving.known_order(self.state, slots.order)

    @property
    def other_bin(self) -> OtherBin:
        """May another bin than the one shown be taken?"""
        return self.rulebook.other_bin_of(self.flow, self.state.settings.site)

    def item(self, slots: Slots) -> Item:
        """The item being received."""
        assert slots.item is not None
        return self.ground.items[slots.item]

    def unit(self, slots: Slots) -> ItemUnit:
        """The unit being counted in."""
        assert slots.unit is not None
        return self.item(slots).unit(slots.unit)

    def task(self, slots: Slots) -> Task:
        """The task being done."""
        assert slots.task is not None
        return self.state.tasks[slots.task]


class Kind:
    """What every kind of prompt answers; the defaults suit most."""

    wants = "the right code"
    shape: Shape = "ticket"
    keys: Keys = "scan"

    def needed(self, ctx: Context, slots: Slots) -> bool:
        """Does this prompt apply, and is it unanswered?"""
        raise NotImplementedError

    def take(self, ctx: Context, slots: Slots, reading: Reading) -> Slots | Doubt:
        """The slots with this answer filled in; a refusal if it is no answer."""
        raise NotImplementedError

    def given(self, ctx: Context, slots: Slots) -> Slots | None:
        """The answer, when it is known without asking anybody."""
        return None

    def picks(self, ctx: Context, slots: Slots) -> Iterable[Pick]:
        """What may be tapped."""
        return ()

    def proposal(self, ctx: Context, slots: Slots, prompt: Prompt) -> Decimal | None:
        """The number offered, by kinds that ask for one."""
        return None

    def confirmed(self, ctx: Context, slots: Slots, count: Decimal) -> Slots:
        """The slots when the number offered is confirmed."""
        return replace(slots, count=count)

    def title(self, ctx: Context, slots: Slots) -> str:
        """The question."""
        raise NotImplementedError

    def shows(self, ctx: Context, slots: Slots, prompt: Prompt) -> dict[str, Any]:
        """Further fields of the question."""
        return {}

    def wrong(self, ctx: Context, slots: Slots, reading: Reading) -> Refusal:
        """A scan that is something, but not what is asked, or nothing known at all."""
        if reading.kind is Read.UNKNOWN:
            return Refusal(
                "unknown_code", f"Nothing here has the code `{reading.code}`. Scan {self.asked(ctx, slots)}."
            )
        return Refusal("wrong_kind", f"That is {told(reading)}; scan {self.asked(ctx, slots)}.")

    def asked(self, ctx: Context, slots: Slots) -> str:
        """What should be scanned, for the sentence of a refusal."""
        return self.wants


def bin_place(ctx: Context, code: BinCode) -> str:
    """Where a bin is, in words: zone, aisle, level."""
    each = ctx.ground.bins[code]
    zone = ctx.ground.zones[each.zone].name
    aisle = f", aisle {each.aisle}" if each.aisle else ""
    level = "floor level" if each.level == 0 else f"level {each.level}"
    return f"{zone}{aisle}, {level}"


def deviation(ctx: Context, code: str, shown: str | None, filled: Slots, words: str) -> Slots | Doubt:
    """Another bin than the one shown: never, after a warning, or with a reason, as the flow has it."""
    if shown is None or code == shown:
        return filled
    if ctx.other_bin is OtherBin.NEVER:
        raise Refusal("not_the_bin", f"That is bin `{code}`; this flow keeps to the bin shown: `{shown}`.")
    if ctx.other_bin is OtherBin.REASON:
        return Doubt("reason", f"`{code}` is not the bin shown, `{shown}`. Why is it taken?", filled)
    return Doubt("yes_no", f"`{code}` is not the bin shown, `{shown}`. {words}", filled)
