"""Why an order is on a handset, or is not: everything that must agree for it to be shown, each thing on its own."""

from __future__ import annotations

from functools import cache

from mindful_crate.core.catalog.goods import INBOUND, Order, OrderKind
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, any_of
from mindful_crate.core.rulebook.words.steps import place_told
from mindful_crate.core.work.receiving.checks import order_hold, planned, waits_for


@record
class Agrees:
    """One thing that must be so, whether it is, and in words how it is and what would mend it."""

    holds: bool
    says: str


@record
class Shown:
    """Whether an order is on a handset, with all that decides it, first the host's part, then the rulebook's."""

    order: OrderNo
    shown: bool
    waiting: int
    """How many of its lines are open."""
    agrees: tuple[Agrees, ...]

    @property
    def says(self) -> str:
        """What keeps it away, or who sees it."""
        return next((a.says for a in self.agrees if not a.holds), self.agrees[-1].says)


def orders_shown(state: State, rulebook: Rulebook) -> list[Shown]:
    """All orders of the world's site, by promised date and number."""
    site = state.settings.site
    receives = {k: _receives(state, rulebook, k) for k in OrderKind}
    orders = sorted((o for o in state.all_orders() if o.site == site), key=lambda o: (o.promised, o.number))
    return [_shown(state, o, _planned(state, rulebook, o), receives[o.kind]) for o in orders]


def order_shown(state: State, rulebook: Rulebook, order: Order) -> Shown:
    """One order of the world's site."""
    return _shown(state, order, _planned(state, rulebook, order), _receives(state, rulebook, order.kind))


def _receives(state: State, rulebook: Rulebook, kind: OrderKind) -> Agrees:
    """Is there a crew that can receive orders of a kind?"""
    site = state.settings.site
    names = {c.id: c.name for c in rulebook.crews}
    seen = rulebook.seen_by(site, FlowPurpose.RECEIVE)
    found = [f"{names.get(c, c)} with {flow.name}" for c, flow in seen if flow.is_for(kind)]
    if found:
        return Agrees(True, f"On the menu of {any_of(found)}.")
    if seen:
        others = any_of(dict.fromkeys(flow.name for _, flow in seen))
        return Agrees(
            False,
            f"{others} {'takes' if len(seen) == 1 else 'take'} other kinds of orders alone. Say so otherwise on Scanner.",
        )
    flows = [f.name for f in rulebook.flows if f.purpose is FlowPurpose.RECEIVE and f.site in (None, site)]
    if flows:
        return Agrees(False, f"{any_of(flows)} is on no crew's menu. Put it on one, on Scanner.")
    return Agrees(False, "No flow receives. Make one on Scanner.")


def _shown(state: State, order: Order, planned: Agrees, receives: Agrees) -> Shown:
    waiting = state.lines_open(order)
    agrees = (_confirmed(state, order), *_held_up(state, order), _open(waiting), planned, receives)
    return Shown(order.number, all(a.holds for a in agrees), waiting, agrees)


KNOWN = Agrees(True, "Confirmed in the host, and the floor knows.")
NOT_CONFIRMED = Agrees(False, "Not confirmed: its buyer confirms it in the host.")


@cache
def _open(waiting: int) -> Agrees:
    if not waiting:
        return Agrees(False, "Nothing of it is open: all has arrived or is on a plate.")
    return Agrees(True, "1 line is open." if waiting == 1 else f"{waiting} lines are open.")


def _confirmed(state: State, order: Order) -> Agrees:
    """Has the floor heard of it? If not, how far is it?"""
    if state.is_confirmed(order.number):
        return KNOWN
    held = state.host_orders.get(order.number)
    if held and held.cancelled:
        return Agrees(False, "Cancelled in the host.")
    if held is None or not held.confirmed:
        return NOT_CONFIRMED
    first = state.first_open(order.number)
    message = state.messages[first] if first else None
    if message and message.due:
        why = f" {message.says}" if message.says else ""
        return Agrees(False, f"Confirmed; message `{first}` reaches the floor at {message.due:%H:%M:%S} UTC.{why}")
    refused = next((m for m in reversed(state.messages_left(order.number)) if m.says), None)
    says = f"message `{refused.number}` did not arrive: {refused.says}" if refused else "the floor has not heard of it."
    return Agrees(False, f"Confirmed, but {says}")


def _held_up(state: State, order: Order) -> tuple[Agrees, ...]:
    """What keeps a confirmed order away; nothing is said where nothing does."""
    if state.is_cancelled(order.number):
        return (Agrees(False, "Cancelled in the host."),)
    if order.number not in state.host_orders and order.kind is not OrderKind.TRANSFER:
        return ()  # nobody touched it
    if hold := order_hold(state, order.number):
        return (Agrees(False, f"Held: {hold}."),)
    coming = len(state.announced_of(order.number))
    if coming:
        return (
            Agrees(True, f"{coming} of its plates are announced." if coming > 1 else "1 of its plates is announced."),
        )
    changed = [m for m in state.messages_left(order.number) if m.open and state.is_confirmed(order.number)]
    return tuple(Agrees(True, f"Message `{m.number}` will change it.") for m in changed[:1])


def _planned(state: State, rulebook: Rulebook, order: Order) -> Agrees:
    kind = order.kind
    if kind not in INBOUND:
        return Agrees(False, f"{ORDERS[kind]} go out: no flow receives them.")
    plan = planned(rulebook, state, order)
    if plan is None:
        kinds = ORDERS[kind].lower()
        if any(p.on and p.receive.on and p.order_kind in (None, kind) for p in rulebook.step_plans):
            return Agrees(
                False,
                f"No step plan is for these {kinds}: those there are for others. Widen one, or add one, on Steps.",
            )
        return Agrees(False, f"No step plan is for {kinds}. Widen one, or add one, on Steps.")
    if waits := waits_for(state, order, plan):
        return Agrees(False, waits)
    return Agrees(True, f"Step plan {plan.name} receives it into {place_told(plan.receive.into, Names(state.ground))}.")
