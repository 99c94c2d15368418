"""Returns: whether a draft accepts something from somebody today, and what becomes of it."""

from __future__ import annotations

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import asked_state, why_of
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import local_date
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById, Why
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import ItemCode, PartnerCode
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.returns import Otherwise
from mindful_crate.core.rulebook.words.parts import STATUSES
from mindful_crate.core.rulebook.words.returns import CREDITS
from mindful_crate.core.work.returning.judging import Judged, judge

api = APIBlueprint("returning", __name__, url_prefix="/api", abp_tags=[Tag(name="returns")], doc_ui=WITH_DOCUMENT)
BECOMES = {
    Otherwise.ACCEPT: "accepted",
    Otherwise.HOLD: "taken in, and held for a supervisor",
    Otherwise.REFUSE: "refused",
}


class ReturnBody(Body):
    """So much of an item from a customer, marked somehow; ``world`` null asks on the opening state."""

    item: str = Field(default="", max_length=40)
    partner: str = Field(default="", max_length=40)
    quantity: int = Field(default=1, ge=1, le=1_000_000_000)
    mark: str = Field(default="", max_length=20)
    world: str | None = Field(default=None, max_length=80)


class ReturnJudgedView(Answer):
    """What becomes of it: the verdict by which rule and why, what the goods are then, whether they are credited, and where they go."""

    judged: Judged
    becomes: str
    mark: str
    then: str
    why: Why | None
    customers: dict[str, str]
    """Who may be asked about."""
    marks: dict[str, str]
    item: str
    partner: str


@api.post("/drafts/<id>/bench/returns", responses={200: ReturnJudgedView, **PROBLEMS})
@needs(Right.LOOK)
def bench_returns(path: ById, body: ReturnBody) -> ReturnJudgedView:
    """Is this item accepted from this customer today? Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world) as state:
            ground, site = state.ground, state.settings.site
            customers = {
                str(p.code): p.name
                for p in ground.partners.values()
                if any(
                    o.kind in (OrderKind.SALES, OrderKind.CUSTOMER_RETURN) and o.partner == p.code
                    for o in state.all_orders()
                )
            }
            partner = PartnerCode(body.partner or next(iter(customers), ""))
            item = ground.items.get(ItemCode(body.item)) if body.item else next(iter(ground.items.values()), None)
            if item is None:
                raise Refusal("unknown_item", f"There is no item `{body.item}`.", "item")
            if partner not in ground.partners:
                raise Refusal("unknown_partner", f"There is no customer `{partner}`.", "partner")
            today = local_date(ground, site, state.clock)
            judged = judge(state, found.rulebook, partner, item, body.quantity, today)
            marks = found.rulebook.marks_at(site)
            mark = next((m for m in marks if m.id == body.mark), None) or next(iter(marks), None)
            then, why = "", None
            if judged.becomes is Otherwise.ACCEPT and mark is not None:
                then = f"It is {STATUSES[mark.status]} then; {CREDITS[mark.credits]}."
                request = BinRequest(
                    site=site, purpose=BinPurpose.RETURN_TO, goods=(Goods(item.code, body.quantity, status=mark.status),),
                    order_kind=OrderKind.CUSTOMER_RETURN, partners=(partner,), disposition=mark.goes, today=today,
                )  # fmt: skip
                why = why_of(request, found.rulebook, state)
    return ReturnJudgedView(
        judged=judged, becomes=BECOMES[judged.becomes], mark=mark.id if mark else "", then=then, why=why, customers=customers,
        marks={str(m.id): m.name for m in marks}, item=item.code, partner=partner,
    )  # fmt: skip
