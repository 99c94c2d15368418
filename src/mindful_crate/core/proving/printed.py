"""What label rules would print of an order, found by receiving it; nothing is kept."""

from __future__ import annotations

from datetime import date, timedelta

from mindful_crate.core.catalog.ids import OrderNo, PersonId, PlateKindCode
from mindful_crate.core.floor.prints import Label
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.work_lists import still_open
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import When
from mindful_crate.core.rulebook.words.papers import WHEN
from mindful_crate.core.work.host.fold import suppose_confirmed
from mindful_crate.core.work.printing.events import LabelsSent
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.world import acts
from mindful_crate.core.world.decide import carried_out


@record
class PrintedBy:
    """What one rule prints: its number among the site's, when, where or why nowhere, the labels with how many in all."""

    rule: str
    number: int
    when: str
    printer: str
    why: str
    count: int
    labels: tuple[Label, ...]


@record
class Printed:
    """What is said of the receipt, what is printed, and a sentence for each rule that prints nothing of it."""

    says: str
    prints: tuple[PrintedBy, ...]
    nothing: tuple[str, ...]


def printed_of(state: State, book: Rulebook, order: OrderNo, plate_kind: str, who: PersonId, today: date) -> Printed:
    """Receive all that is open of an order onto one plate, and look at what is printed; refused when it cannot be received."""
    kinds = list(state.ground.plate_kinds)
    kind = PlateKindCode(plate_kind) if plate_kind in kinds else kinds[0] if kinds else None
    stamp = Stamp("supposed", state.clock, today, who)
    with state.tentatively():
        suppose_confirmed(state, order)
        lines = tuple(
            acts.OfficeLine(
                x.item, x.open, "SUPPOSED" if x.lot else "", today + timedelta(days=365) if x.expiry else None,
                tuple(f"SUPPOSED-{n}" for n in range(1, x.open + 1)) if x.serial else (),
            )
            for x in still_open(state, book, order)
            if x.open
        )  # fmt: skip
        if not lines:
            raise Refusal("nothing_open", f"Nothing of `{order}` is open that could be supposed here.")
        says, making = carried_out(state, book, stamp, acts.ReceiveInOffice(order, lines, kind, why="supposed"))
    mine = [r for r in book.label_rules if r.site in (None, state.settings.site)]
    found = []
    for sent in (e for e in making.events if isinstance(e, LabelsSent)):
        rule = next(r for r in mine if r.id == sent.by_rule)
        count = len(sent.labels) * sent.copies
        found.append(
            PrintedBy(rule.id, mine.index(rule) + 1, WHEN[rule.when], sent.printer or "", sent.why, count, sent.labels)
        )
    printed = {p.rule for p in found}
    nothing = []
    for n, rule in enumerate(mine, start=1):
        if rule.id in printed:
            continue
        later = rule.when not in (When.BEGUN, When.FINISHED)
        why = "is switched off" if not rule.on else f"prints when {WHEN[rule.when]}" if later else "is for other goods"
        nothing.append(f"Rule {n} {why}.")
    return Printed(says, tuple(found), tuple(nothing))
