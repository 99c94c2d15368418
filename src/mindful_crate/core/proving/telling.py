"""Scripts in words: what a step does, what it refers to, and what it expects."""

from __future__ import annotations

from typing import assert_never

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving import script as sc
from mindful_crate.core.rulebook.sentences import ORDERS
from mindful_crate.core.world import acts


def ref_told(ref: sc.Ref) -> str:
    """What a reference stands for, in words."""
    match ref:
        case sc.Literally():
            return f"`{ref.text}`"
        case sc.TheOrder():
            return f"`{ref.order}`"
        case sc.TheBin():
            return f"`{ref.bin}`"
        case sc.Shown():
            return "the code shown"
        case sc.PlateOf():
            return f"the plate of {ref.step}"
        case sc.BinOf():
            return f"the bin chosen in {ref.step}"
        case sc.TheItem():
            extra = [f"lot `{ref.lot}`" if ref.lot else "", f"expiring {ref.expiry}" if ref.expiry else ""]
            return ", ".join([f"the {ref.unit} of `{ref.item}`", *(e for e in extra if e)])
        case _ as missed:
            assert_never(missed)


def does(do: sc.Doing) -> str:
    """What a step does, in words."""
    match do:
        case sc.DoConfirm():
            return f"The buyer confirms `{do.order}` in the host"
        case sc.DoOpen():
            return f"Opens flow `{do.flow}`"
        case sc.DoScan():
            verb = {"scanned": "Scans", "typed": "Types", "tapped": "Taps"}[do.how.value]
            return f"{verb} {ref_told(do.code)}"
        case sc.DoPress():
            return f"Presses {do.action.replace('_', ' ')}"
        case sc.DoFinish():
            return f"The office finishes {ref_told(do.plate)}"
        case sc.DoBook():
            return f"The office books the receipt of {ref_told(do.plate)}"
        case sc.DoBlock():
            return f"The office blocks {ref_told(do.bin)}" if do.reason else f"The office frees {ref_told(do.bin)}"
        case sc.DoReserve():
            return f"The office keeps {do.quantity:,} of `{do.item}` for {do.holder}"
        case sc.DoLetGo():
            return f"The office lets go what was kept in {do.step}"
        case sc.DoHost():
            return _in_host(do.act)
        case sc.DoTask():
            return _about_a_task(do.act)
        case sc.DoWait():
            return f"{do.seconds} seconds pass"
        case _ as missed:
            assert_never(missed)


def _about_a_task(act: acts.TaskAct) -> str:
    match act:
        case acts.SetDown():
            return f"What task `{act.task}` is about is put back"
        case acts.HoldTask():
            return f"Task `{act.task}` is held: {act.why}"
        case acts.LetTaskGo():
            return f"Task `{act.task}` is let go"
        case acts.ReassignTask():
            return f"Task `{act.task}` is given to crew `{act.crew}`"
        case acts.RaiseTask():
            return f"Task `{act.task}` gets priority {act.priority}"
        case acts.CancelTask():
            return f"Task `{act.task}` is cancelled: {act.why}"
        case _ as missed:
            assert_never(missed)


def _in_host(act: acts.HostAct) -> str:
    match act:
        case acts.WriteOrder():
            return f"`{act.order.number}` is written in the host, {len(act.order.lines)} lines"
        case acts.TryOrder():
            return f"The host makes a test order: {ORDERS[act.order_kind].lower()}"
        case acts.CancelOrder():
            return f"`{act.order}` is cancelled in the host"
        case acts.ShipTransfer():
            return f"The other site ships `{act.order}`"
        case acts.AnnounceOrder():
            return f"The vendor announces what comes of `{act.order}`"
        case acts.OpenOrder():
            return f"The office opens `{act.order}` for editing"
        case acts.CloseOrder():
            return f"The office closes `{act.order}`"
        case acts.SetHost():
            host = act.host
            ways = ["is down"] * host.down + ["answers twice"] * host.twice + ["refuses"] * bool(host.refuses)
            return f"The host {' and '.join(ways) or 'is well'}, {host.book_seconds} s to answer"
        case acts.RepeatMessage():
            return f"Message `{act.message}` is sent again"
        case _ as missed:
            assert_never(missed)


def expectation_told(e: sc.Expectation, ground: Ground | None = None) -> str:
    """An expectation in words; with a ground, quantities have their units."""
    match e:
        case sc.ExpectRefused():
            return f"is refused: {e.code.replace('_', ' ')}"
        case sc.ExpectAsks():
            return f"the handset asks for the {e.asks}" + (f" `{e.code}`" if e.code else "")
        case sc.ExpectStock():
            return _stock_told(e, ground)
        case sc.ExpectChosen():
            parts = [
                f"bin `{e.bin}`" if e.bin else "",
                f"in zone `{e.zone}`" if e.zone else "",
                f"by rule `{e.rule}`" if e.rule else "",
            ]
            return "the rules choose " + ", ".join(p for p in parts if p)
        case sc.ExpectLine():
            return f"`{e.order}` line {e.line}: arrived {e.arrived:,}, booked {e.booked:,}"
        case _ as missed:
            assert_never(missed)


def _stock_told(e: sc.ExpectStock, ground: Ground | None) -> str:
    """All that is checked, and nothing else."""
    item: Item | None = ground.items.get(ItemCode(e.item)) if ground else None
    much = f"{item.told(e.quantity)} of `{e.item}`" if item else f"{e.quantity:,} of `{e.item}`"
    where = ref_told(e.plate) + f" in {ref_told(e.bin)}" if e.plate is not None else ref_told(e.bin)
    only = [f"lot `{e.lot}`" if e.lot else "", e.status.value if e.status else ""]
    what = ", ".join([much, *(o for o in only if o)])
    return f"{where} holds {what}" + (" loose" if e.loose else "")
