"""Scripts told in words: what a step does, what it refers to and what it expects."""

from __future__ import annotations

from datetime import date
from typing import Any, get_args

import pytest

from mindful_crate.core.floor.counts import CountState
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.telling import does, expectation_told, ref_told
from mindful_crate.core.world import acts

REFS: dict[Any, str] = {
    sc.Literally("12"): "`12`",  # type: ignore[arg-type]
    sc.TheOrder("PO-1"): "`PO-1`",  # type: ignore[arg-type]
    sc.TheItem("TAR", "case"): "the case of `TAR`",  # type: ignore[arg-type]
    sc.TheItem("TAR", "case", "L1", date(2027, 1, 2)): "the case of `TAR`, lot `L1`, expiring 2027-01-02",  # type: ignore[arg-type]
    sc.TheBin("B-1"): "`B-1`",  # type: ignore[arg-type]
    sc.Shown(): "the code shown",
    sc.PlateOf("s3"): "the plate of s3",
    sc.BinOf("s3"): "the bin chosen in s3",
}
DOINGS: dict[Any, str] = {
    sc.DoConfirm("PO-1"): "The buyer confirms `PO-1` in the host",  # type: ignore[arg-type]
    sc.DoOpen("F-1"): "Opens flow `F-1`",  # type: ignore[arg-type]
    sc.DoScan(sc.Shown()): "Scans the code shown",
    sc.DoPress("go_on"): "Presses go on",
    sc.DoFinish(sc.PlateOf("s1")): "The office finishes the plate of s1",
    sc.DoBook(sc.PlateOf("s1")): "The office books the receipt of the plate of s1",
    sc.DoBlock(sc.TheBin("B-1"), "wet"): "The office blocks `B-1`",  # type: ignore[arg-type]
    sc.DoBlock(sc.TheBin("B-1")): "The office frees `B-1`",  # type: ignore[arg-type]
    sc.DoReserve("Old Mole", "TAR", 1200): "The office keeps 1,200 of `TAR` for Old Mole",  # type: ignore[arg-type]
    sc.DoLetGo("s2"): "The office lets go what was kept in s2",
    sc.DoHost(acts.CancelOrder("PO-1")): "`PO-1` is cancelled in the host",  # type: ignore[arg-type]
    sc.DoHost(acts.SetHost(HostStandIn(down=True))): "The host is down, 2 s to answer",
    sc.DoOffice(acts.ConfirmOrder("PO-1")): "The buyer confirms `PO-1` in the host",  # type: ignore[arg-type]
    sc.DoOffice(acts.HoldTask("TR-1", "wet"), (("task", "s2"),)): "Task `made in s2` is held: wet",  # type: ignore[arg-type]
    sc.DoTask(acts.HoldTask("TR-1", "wet")): "Task `TR-1` is held: wet",  # type: ignore[arg-type]
    sc.DoTask(acts.LetTaskGo("TR-1")): "Task `TR-1` is let go",  # type: ignore[arg-type]
    sc.DoTask(acts.RaiseTask("TR-1", 3)): "Task `TR-1` gets priority 3",  # type: ignore[arg-type]
    sc.DoTask(acts.ReassignTask("TR-1", "quay")): "Task `TR-1` is given to crew `quay`",  # type: ignore[arg-type]
    sc.DoTask(acts.CancelTask("TR-1", "wet")): "Task `TR-1` is cancelled: wet",  # type: ignore[arg-type]
    sc.DoTask(acts.SetDown("TR-1")): "What task `TR-1` is about is put back",  # type: ignore[arg-type]
    sc.DoWait(30): "30 seconds pass",
}
EXPECTED: dict[Any, str] = {
    sc.ExpectRefused("wrong_kind"): "is refused: wrong kind",
    sc.ExpectAsks("bin", "B-1"): "the handset asks for the bin `B-1`",
    sc.ExpectStock(sc.BinOf("s3"), "TAR", 1200): "the bin chosen in s3 holds 1,200 of `TAR`",  # type: ignore[arg-type]
    sc.ExpectChosen(rule="BR-1", zone="Z"): "the rules choose in zone `Z`, by rule `BR-1`",
    sc.ExpectLine("PO-1", 2, 10, 5): "`PO-1` line 2: arrived 10, booked 5",  # type: ignore[arg-type]
    sc.ExpectGoes("SO-1", "released", "80.00 %", leaves_with=("SO-2",)): "`SO-1` is released, at 80.00 %, with `SO-2`",  # type: ignore[arg-type]
    sc.ExpectWave(sc.Literally("W-1"), WaveState.HELD, 2, ("SO-1",)): "wave `W-1` is held, 2 open tasks, `SO-1`",  # type: ignore[arg-type]
    sc.ExpectCover("SO-1", 2, 1200, 5): "`SO-1` line 2: 1,200 on hand, 5 on the way, 0 kept in bins",  # type: ignore[arg-type]
    sc.ExpectShipment(
        sc.Literally("SHR-1"), sc.Sent.OPEN, 2, "load"
    ): "shipment `SHR-1` is not ready to leave, 2 cartons packed, next is to load",
    sc.ExpectShipped("SO-1", 2, 1200): "`SO-1` line 2: 1,200 have left",  # type: ignore[arg-type]
    sc.ExpectCounted(
        sc.Literally("CS-1"), CountState.OPEN, 1, left=2
    ): "sheet `CS-1` is still to be counted, 1 in the books, 2 not yet",
    sc.ExpectTill("SHK-08", 1200): "the till says 1,200 of `SHK-08`",  # type: ignore[arg-type]
    sc.ExpectLabels(sc.PlateOf("s2"), 2, "LABEL-5", waiting=True): "2 labels of the plate of s2 waiting on `LABEL-5`",
}


@pytest.mark.parametrize(
    ("union", "told", "words"),
    [(sc.Ref, ref_told, REFS), (sc.Doing, does, DOINGS), (sc.Expectation, expectation_told, EXPECTED)],
)
def test_every_kind_is_told(union: Any, told: Any, words: dict[Any, str]) -> None:
    """Each kind there is has its words, and a kind added later is missed here."""
    assert {type(each) for each in words} == set(get_args(union))
    assert {each: told(each) for each in words} == words
