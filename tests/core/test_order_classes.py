"""Classes of orders: the first that takes an order has it, and whatever asks for a class follows from that."""

from __future__ import annotations

import random
from dataclasses import replace

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import CarrierCode, OrderClassId, OrderNo, SiteCode
from mindful_crate.core.proving.class_bench import sorted_orders
from mindful_crate.core.proving.effects import effects
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.releasing.onward import pack_rule
from mindful_crate.core.releasing.planning import size_of, why_not
from mindful_crate.core.rulebook.bin_rules import Between
from mindful_crate.core.rulebook.orders import CONDITIONS, OrderClass, covers, not_of, worth
from mindful_crate.core.rulebook.steps import Only
from mindful_crate.core.rulebook.waves import Of
from mindful_crate.core.rulebook.words.orders import class_sentence
from mindful_crate.core.rulebook.words.parts import words_of
from tests.core.test_covering import BOOK as DEMO
from tests.core.test_covering import GROUND
from tests.playbook import new_world

HQ = SiteCode("HQ")
ORDERS = [o for o in GROUND.orders.values() if o.site == HQ]
URGENT, WEB, YARDS = (OrderClassId(f"OC-{n}") for n in (1, 2, 3))


def of(number: str) -> Order:
    return GROUND.orders[OrderNo(number)]


def made(chance: random.Random, id_: str) -> OrderClass:
    """Any class that says something of orders like those of the demo."""

    def some(names: list[str], often: float = 0.35) -> tuple[str, ...]:
        return tuple(sorted(chance.sample(names, chance.randint(1, len(names))))) if chance.random() < often else ()

    def span(most: int) -> Between:
        low, high = sorted((chance.randint(0, most), chance.randint(0, most)))
        return chance.choice([Between(), Between(), Between(low, None), Between(None, high), Between(low, high)])

    partners = chance.sample(sorted(GROUND.partners), 4)
    return OrderClass(
        OrderClassId(id_), id_, some(list(OrderKind)), some(["web", "phone", "counter"]), some(["TIDE", "HEAV", "BOAT"]),  # type: ignore[arg-type]
        some(partners, 0.2), some(["Yards", "Shops", "Schools", "Vendors"]), some(sorted({i.group for i in GROUND.items.values()})),  # type: ignore[arg-type]
        chance.choice(list(Of)), span(9), span(6), span(80), span(900), chance.random() < 0.1,
    )  # fmt: skip


def test_the_first_class_that_takes_an_order_has_it_and_a_covered_one_never_does() -> None:
    """Against the definition, over made-up lists; what is said to take all that another takes, takes each."""
    chance, covered = random.Random(5), 0
    for _ in range(60):
        classes = tuple(made(chance, f"OC-{n}") for n in range(4))
        if chance.random() < 0.5:  # one that is plainly narrower than another
            wide = chance.choice(classes)
            classes = (
                *classes,
                replace(wide, id=OrderClassId("OC-9"), order_priority=Between(3, 3), carriers=(CarrierCode("TIDE"),)),
            )
        book = replace(DEMO, order_classes=classes)
        for order in ORDERS:
            takes = [c for c in classes if not_of(GROUND, c, order) is None]
            found = book.class_of(GROUND, order)
            assert found is (takes[0] if takes else None)
            assert found is book.class_of(GROUND, order)
        for one in classes:
            for other in classes:
                if one is not other and covers(one, other):
                    covered += 1
                    assert all(not_of(GROUND, one, o) is None for o in ORDERS if not_of(GROUND, other, o) is None)
    assert covered > 5


def test_each_condition_keeps_some_order_out_and_says_why() -> None:
    """Every condition by itself: some orders of the demo pass, the others are told why they do not, and the sentence of the class says it."""
    told = {words_of(class_sentence(OrderClass(URGENT, "Any"), GROUND))}
    values: dict[str, object] = {
        "order_kinds": (OrderKind.SALES,), "channels": ("web",), "carriers": ("TIDE",), "partners": ("C-500",), "partner_groups": ("Yards",),
        "groups": ("Rope",), "order_priority": Between(None, 2), "order_lines": Between(None, 1), "order_weight": Between(40, None),
        "order_value": Between(200, None), "notice": True,
    }  # fmt: skip
    assert set(values) == set(CONDITIONS)
    for name, value in values.items():
        kind = OrderClass(URGENT, "Any", **{name: value}, of=Of.ANY)  # type: ignore[arg-type]
        said = [not_of(GROUND, kind, o) for o in ORDERS]
        assert any(s for s in said), name
        assert name == "notice" or None in said, name
        told.add(words_of(class_sentence(kind, GROUND)))
    assert len(told) == len(values) + 1
    dear = OrderClass(URGENT, "Dear", order_value=Between(200, None))
    assert all((not_of(GROUND, dear, o) is None) == (worth(GROUND, o) >= 200) for o in ORDERS)


def test_plans_waves_and_packing_may_be_for_a_class_alone() -> None:
    """A shipment plan, a wave plan, a rule of packing for urgent orders take those, and no other."""
    urgent, other = of("SO-2001"), of("SO-2003")
    assert (DEMO.class_told(GROUND, urgent), DEMO.class_told(GROUND, other)) == ("Urgent", "")
    plan = replace(DEMO.ship_plans[0], id="SH-9", only=Only(order_class=URGENT))  # type: ignore[arg-type]
    wave = replace(DEMO.wave_plans[-1], wants=replace(DEMO.wave_plans[-1].wants, carriers=(), order_classes=(URGENT,)))
    rule = replace(DEMO.pack_rules[-1], id="PK-9", order_classes=(URGENT,))  # type: ignore[arg-type]
    book = replace(DEMO, ship_plans=(*DEMO.ship_plans, plan), wave_plans=(wave,), pack_rules=(rule, *DEMO.pack_rules))
    state = new_world(GROUND, book).state
    for order, mine in ((urgent, True), (other, False)):
        assert (book.ship_plan_for(book.asked(GROUND, order)) == plan) == mine
        assert (pack_rule(state, book, order) == rule) == mine
        says = why_not(GROUND, wave, size_of(state, book, order), order.promised)
        assert (says is None) == mine and (mine or says == "it is of no class")


def test_what_is_wrong_with_classes_is_found_and_what_a_change_does_is_told() -> None:
    """A class behind a wider one, one that asks for what there is not, a plan for a class that is gone; and the orders that change class."""
    wide, *rest = DEMO.order_classes
    behind = replace(
        wide, id=OrderClassId("OC-8"), name="Very urgent", order_priority=Between(None, 1), channels=("fax",)
    )
    plan = replace(DEMO.ship_plans[0], id="SH-9", only=Only(order_class=OrderClassId("OC-7")))  # type: ignore[arg-type]
    book = replace(DEMO, order_classes=(wide, *rest, behind), ship_plans=(*DEMO.ship_plans, plan))
    found = {(f.code, f.place) for f in findings(book, GROUND, HQ)} - {
        (f.code, f.place) for f in findings(DEMO, GROUND, HQ)
    }
    assert found == {
        ("never_reached", "order_classes/OC-8"), ("missing_value", "order_classes/OC-8/channels"),
        ("missing_class", "ship_plans/SH-9/only/order_class"),
    }  # fmt: skip
    state = new_world(GROUND, DEMO).state
    changed = replace(DEMO, order_classes=tuple(rest))
    gone = [s.order.number for s in sorted_orders(state, DEMO) if s.mine is wide]
    told = effects(DEMO, changed, state)
    of_it = [t for t in told if t.endswith("of class Urgent now.")]
    assert gone and sum(int(t.split()[0]) for t in of_it) == len(gone)
    both = {s.order.number: s.fits for s in sorted_orders(state, DEMO) if s.fits}
    assert both[OrderNo("SO-2001")] == ("Web shop",) and OrderNo("SO-2003") not in both
