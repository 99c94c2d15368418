"""Every matter in one place, a row each."""

from __future__ import annotations

from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.scanning.dialogue import OFFERED_BY_ALL
from mindful_crate.core.scanning.kinds import Machine
from mindful_crate.core.work.clock import CLOCK
from mindful_crate.core.work.counting.matter import COUNTING
from mindful_crate.core.work.covering.matter import COVERING
from mindful_crate.core.work.crossing.matter import CROSSING
from mindful_crate.core.work.host.matter import HOST
from mindful_crate.core.work.inspecting.matter import INSPECTING
from mindful_crate.core.work.leaving.matter import LEAVING
from mindful_crate.core.work.looking.matter import LOOKING
from mindful_crate.core.work.moving.matter import MOVING
from mindful_crate.core.work.packing.matter import PACKING
from mindful_crate.core.work.picking.matter import PICKING
from mindful_crate.core.work.printing.matter import PRINTING
from mindful_crate.core.work.putting.matter import PUTTING
from mindful_crate.core.work.receiving.matter import RECEIVING
from mindful_crate.core.work.refilling.matter import REFILLING
from mindful_crate.core.work.releasing.matter import RELEASING
from mindful_crate.core.work.returning.matter import RETURNING
from mindful_crate.core.work.reviewing import REVIEWING
from mindful_crate.core.work.rules import RULES
from mindful_crate.core.work.sorting.matter import SORTING
from mindful_crate.core.work.stock.matter import STOCK
from mindful_crate.core.work.tasks.matter import TASKS
from mindful_crate.core.work.tilling.matter import TILLING
from mindful_crate.core.work.undoing.matter import UNDOING
from mindful_crate.core.work.unloading.matter import UNLOADING
from mindful_crate.core.work.waving.matter import WAVING

MATTERS = (
    HOST,
    TASKS,
    UNLOADING,
    RECEIVING,
    INSPECTING,
    PUTTING,
    MOVING,
    LOOKING,
    UNDOING,
    STOCK,
    TILLING,
    RELEASING,
    WAVING,
    PICKING,
    REFILLING,
    CROSSING,
    SORTING,
    PACKING,
    LEAVING,
    RETURNING,
    COUNTING,
    COVERING,
    PRINTING,
    REVIEWING,
    CLOCK,
    RULES,
)
MACHINE = Machine(
    {purpose: kind for matter in MATTERS for purpose, kind in matter.flows.items()},
    {asks: kind for matter in MATTERS for asks, kind in matter.prompts.items()},
    tuple(button for matter in MATTERS for button in matter.everywhere),
    {read: act for matter in MATTERS for read, act in matter.at_any_time.items()},
)
"""What dialogues are made of: the flows and prompts of all matters."""

BUTTONS = (
    OFFERED_BY_ALL
    | {b.action for b in MACHINE.everywhere}
    | {b.action for kind in MACHINE.flows.values() for b in kind.buttons}
)
"""The names of all buttons there are."""
PAPERS = {kind: paper for kind in DocKind for m in MATTERS for paper in m.papers if paper.kind is kind}
"""Every kind of document, in the order in which kinds are told."""
