"""Scripts in words: what a step does, what it refers to, and what it expects."""

from __future__ import annotations

from typing import assert_never

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.release_list import STANDS_TOLD
from mindful_crate.core.rulebook.words.parts import all_of, counted
from mindful_crate.core.work.waving.words import STATES as WAVE_STATES
from mindful_crate.core.world import acts
from mindful_crate.core.world.words import ASKED, LOST


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
        case sc.DoHost() | sc.DoTask():
            return _office(do.act)
        case sc.DoOffice():
            return _office(sc.meaning(do.act, {name: f"made in {step}" for name, step in do.made}))
        case sc.DoWait():
            return f"{do.seconds} seconds pass"
        case _ as missed:
            assert_never(missed)


def step_told(step: sc.ScriptStep, ground: Ground | None = None) -> str:
    """What a step does, where that is not at the rehearsal's own site, and what becomes of the network meanwhile."""
    site = ground.sites.get(step.site) if ground and step.site else None
    where = f"At {site.name if site else f'`{step.site}`'}: " if step.site else ""
    return where + does(step.do) + (f". {LOST[step.lost]}" if step.lost else "")


def _office(act: acts.OfficeAct) -> str:
    return ASKED[type(act)](act)


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
        case sc.ExpectLabels():
            on = f" on `{e.printer}`" if e.printer else ""
            many = "no label" if e.count == 0 else "1 label" if e.count == 1 else f"{e.count:,} labels"
            return f"{many} of {ref_told(e.code)} {'waiting' if e.waiting else 'out'}{on}"
        case sc.ExpectGoes():
            more = [f"at {e.rate}" if e.rate else "", f"by gate {e.gate}" if e.gate else ""]
            if e.leaves_with is not None:
                more.append(f"with {', '.join(f'`{o}`' for o in e.leaves_with) or 'no other'}")
            return ", ".join([f"`{e.order}` {STANDS_TOLD[e.stands]}", *(m for m in more if m)])
        case sc.ExpectCover():
            return f"`{e.order}` line {e.line}: {e.on_hand:,} on hand, {e.on_way:,} on the way, {e.kept:,} kept in bins"
        case sc.ExpectWave():
            more = [counted(e.tasks, "open task")] if e.tasks is not None else []
            more += [all_of([f"`{o}`" for o in e.orders]) or "no order"] if e.orders is not None else []
            return ", ".join([f"wave {ref_told(e.wave)} is {WAVE_STATES[e.stands]}", *more])
        case sc.ExpectShipment():
            more = [f"{counted(e.cartons, 'carton')} packed"] if e.cartons is not None else []
            more += [f"next is to {e.next}"] if e.next else []
            return ", ".join([f"shipment {ref_told(e.shipment)} {sc.SENT_TOLD[e.stands]}", *more])
        case sc.ExpectTill():
            return f"the till says {e.quantity:,} of `{e.item}`"
        case sc.ExpectCounted():
            more = [
                f"{n} {says}"
                for n, says in ((e.posted, "in the books"), (e.waiting, "counted"), (e.left, "not yet"))
                if n is not None
            ]
            return ", ".join([f"sheet {ref_told(e.count)} {sc.COUNT_TOLD[e.stands]}", *more])
        case sc.ExpectShipped():
            return f"`{e.order}` line {e.line}: {e.shipped:,} have left"
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
    among = f", {all_of([f'`{n}`' for n in e.serials])} among them" if e.serials else ""
    return f"{where} holds {what}" + (" loose" if e.loose else "") + among
