"""Drafts of the rulebook: chapters as sentences, edits, undo, choices of live words, the file, in force."""

from __future__ import annotations

from typing import Any, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel, TypeAdapter

from mindful_crate.api.doors import Right, check_site, needs, person
from mindful_crate.api.shapes import ById, FindingView, Problem, Sentence, Why
from mindful_crate.api.wiring import Answer, Body, wired
from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateKindCode, SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.request import BinRequest, Goods, load_of
from mindful_crate.core.plain import to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings import findings
from mindful_crate.core.proving.journey import Journey, journey
from mindful_crate.core.rulebook import sentences as words
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.choices import Choices, choices
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.world.state import State
from mindful_crate.core.world.things import Settings
from mindful_crate.files.texts import read_rulebook, rulebook_text
from mindful_crate.store import db
from mindful_crate.store.drafts import Draft
from mindful_crate.store.rows import DraftRow
from mindful_crate.store.worlds import local_start

api = APIBlueprint("rulebook", __name__, url_prefix="/api", abp_tags=[Tag(name="rulebook")])
_BOOK = TypeAdapter(Rulebook)
PROBLEMS: dict[Any, Any] = {401: Problem, 403: Problem, 409: Problem, 422: Problem}


class DraftHead(Answer):
    """A draft in a list."""

    id: str
    name: str
    site: str
    version: int
    says: str


class DraftList(Answer):
    """Drafts, and what is in force."""

    drafts: list[DraftHead]


class RuleList(Answer):
    """A list of bin rules as sentences."""

    id: str
    path: str
    title: str
    rules: list[Sentence]


class FlowView(Answer):
    """A flow with its prompts as sentences."""

    id: str
    name: str
    path: str
    parts: list[words.Part]
    prompts: list[Sentence]
    menus: list[str]


class DraftView(Answer):
    """A draft as the studio shows it."""

    id: str
    name: str
    site: str
    opening: str
    version: int
    rulebook: str
    can_undo: bool
    can_redo: bool
    says: str
    in_force: int | None
    differs_from_force: bool
    rule_lists: list[RuleList]
    step_plans: list[Sentence]
    recipes: list[Sentence]
    flows: list[FlowView]
    findings: list[FindingView]
    book: dict[str, Any]
    """The rulebook with every field, for the values behind the live words."""


class EditBody(Body):
    """One edit of a draft; see ``core.rulebook.edits``."""

    op: Literal["set", "insert", "remove", "move"]
    path: str = Field(max_length=300)
    value: Any = None
    at: int | None = Field(default=None, ge=0, le=10_000)


class EditsBody(Body):
    """Edits made on a version of the draft."""

    version: int
    edits: list[EditBody] = Field(max_length=50)
    says: str = Field(default="", max_length=300)


class ChoicesView(RootModel[Choices]):
    """What a live word may be changed to."""


class VersionBody(Body):
    """The version somebody looked at."""

    version: int


class ChoicesQuery(Body):
    """Which word."""

    field: str = Field(max_length=40)


class BenchBody(Body):
    """A question to the draft: which bin? ``plate_kind`` null asks for loose goods; ``world`` null asks on the
    opening state."""

    item: str = Field(max_length=40)
    quantity: int = Field(ge=1, le=1_000_000_000)
    lot: str = Field(default="", max_length=20)
    plate_kind: str | None = Field(default="PAL", max_length=20)
    order: str | None = Field(default=None, max_length=40)
    world: str | None = Field(default=None, max_length=80)


class JourneyBody(Body):
    """An order whose journey is asked for."""

    order: str = Field(max_length=40)


class JourneyView(RootModel[Journey]):
    """One order's journey."""


class BenchAnswer(Answer):
    """The answer of the bench."""

    why: Why
    says: str
    told: str
    weight_kg: str
    height_mm: int
    from_bin: str


class RuleFile(Body):
    """A rulebook file as text."""

    version: int
    text: str = Field(max_length=2_000_000)


class InForce(Answer):
    """The number of the revision in force."""

    revision: int


@api.get("/drafts", responses={200: DraftList, **PROBLEMS})
@needs(Right.LOOK)
def drafts() -> DraftList:
    """Drafts of the sites the person sees."""
    with wired(current_app).database.transaction() as conn:
        found = db.rows(conn, DraftRow, "drafts", sites=person().row.sites)
    return DraftList(
        drafts=[DraftHead(id=d.id, name=d.name, site=d.site, version=d.version, says=d.says) for d in found]
    )


@api.get("/drafts/<id>", responses={200: DraftView, **PROBLEMS})
@needs(Right.LOOK)
def draft(path: ById) -> DraftView:
    """One draft as sentences."""
    with wired(current_app).database.transaction() as conn:
        return _view(conn, _seen(conn, path.id))


@api.post("/drafts/<id>/edits", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def edit(path: ById, body: EditsBody) -> DraftView:
    """Save edits; a stale version is answered with what changed meanwhile."""
    edits = tuple(Edit(e.op, e.path, e.value, e.at) for e in body.edits)
    with wired(current_app).database.transaction() as conn:
        _seen(conn, path.id)
        says = body.says or f"{len(edits)} edits."
        return _view(conn, wired(current_app).drafts.edit(conn, path.id, body.version, edits, says, person().id))


@api.post("/drafts/<id>/undo", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def undo(path: ById, body: VersionBody) -> DraftView:
    """Take the last edit back."""
    return _stepped(path.id, body.version, -1)


@api.post("/drafts/<id>/redo", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def redo(path: ById, body: VersionBody) -> DraftView:
    """Make an edit that was taken back again."""
    return _stepped(path.id, body.version, 1)


def _stepped(id_: str, version: int, by: int) -> DraftView:
    with wired(current_app).database.transaction() as conn:
        _seen(conn, id_)
        return _view(conn, wired(current_app).drafts.step(conn, id_, version, by))


@api.get("/drafts/<id>/choices", responses={200: ChoicesView, **PROBLEMS})
@needs(Right.LOOK)
def word_choices(path: ById, query: ChoicesQuery) -> ChoicesView:
    """What a live word may be changed to."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        ground = wired(current_app).worlds.ground(conn, found.row.opening)
    state = opening_state(ground, found.row.site)

    def free(zone: ZoneCode) -> tuple[int, int]:
        bins = ground.bins_by_zone[zone]
        return sum(not state.held(b.code).kinds and state.blocked(b.code) is None for b in bins), len(bins)

    answer = choices(query.field, ground, SiteCode(found.row.site), free)
    if answer is None:
        raise Refusal("unknown_word", f"No word has the field {query.field}.")
    return ChoicesView(answer)


@api.post("/drafts/<id>/bench/bin", responses={200: BenchAnswer, **PROBLEMS})
@needs(Right.LOOK)
def bench_bin(path: ById, body: BenchBody) -> BenchAnswer:
    """Which bin would these goods go to by the draft as it stands? Nothing is stored."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = _seen(conn, path.id)
        ground = parts.worlds.ground(conn, found.row.opening)
        request = bench_request(ground, found, body)
        rules = found.rulebook.rules_for(request.site, request.purpose)
        if body.world:
            with parts.worlds.reading(conn, body.world) as loaded:
                check_site(loaded.row.site)
                if loaded.ground.hash != ground.hash:
                    raise Refusal("other_opening", "That world started from another opening state.")
                return _bench_answer(request, found.rulebook, loaded.state, rules)
        return _bench_answer(request, found.rulebook, opening_state(ground, found.row.site), rules)


@api.post("/drafts/<id>/bench/steps", responses={200: JourneyView, **PROBLEMS})
@needs(Right.LOOK)
def bench_steps(path: ById, body: JourneyBody) -> JourneyView:
    """Which step plan applies to an order, why the others do not, and what happens to its goods."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
        order = wired(current_app).worlds.ground(conn, found.row.opening).orders.get(OrderNo(body.order))
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
    return JourneyView(journey(found.rulebook, order))


def bench_request(ground: Ground, found: Draft, body: BenchBody) -> BinRequest:
    """The question of the bench, checked."""
    if body.item not in ground.items:
        raise Refusal("unknown_item", f"There is no item `{body.item}`.", "item")
    if body.plate_kind and body.plate_kind not in ground.plate_kinds:
        raise Refusal("unknown_plate_kind", f"There is no kind of plate `{body.plate_kind}`.", "plate_kind")
    order = ground.orders.get(OrderNo(body.order)) if body.order else None
    if body.order and order is None:
        raise Refusal("unknown_order", f"There is no order `{body.order}`.", "order")
    kind = order.kind if order else OrderKind.PURCHASE
    plan = found.rulebook.plan_for(SiteCode(found.row.site), kind)
    into = plan.receive.into if plan else BinCode("")
    return BinRequest(
        site=SiteCode(found.row.site),
        purpose=BinPurpose.PUT_AWAY,
        goods=(Goods(ItemCode(body.item), body.quantity, body.lot),),
        plate_kind=PlateKindCode(body.plate_kind) if body.plate_kind else None,
        order_kind=kind,
        partners=(order.partner,) if order else (),
        from_bin=into if into in ground.bins else None,
    )


def _bench_answer(request: BinRequest, book: Rulebook, state: State, rules: Any) -> BenchAnswer:
    why = why_of(request, book, state)
    item = state.ground.items[request.goods[0].item]
    load = load_of(request.goods, request.plate_kind, state.ground)
    answer = why.explanation
    if answer.bin:
        says = f"`{answer.bin}`"
    else:
        says = "No bin: the worker is asked." if rules else "There are no rules yet."
    kg = f"{load.weight_mg / 1_000_000:.1f}"
    return BenchAnswer(
        why=why, says=says, told=item.told(request.goods[0].quantity), weight_kg=kg, height_mm=load.height_mm,
        from_bin=request.from_bin or "",
    )  # fmt: skip


def why_of(request: BinRequest, book: Rulebook, state: State) -> Why:
    """Explain a request against a state, with the sentences of the rules."""
    rules = book.rules_for(request.site, request.purpose)
    names = words.Names(state.ground)
    return Why(
        explanation=explain(request, rules, state),
        rules={r.id: words.words_of(words.rule_sentence(r, names)) for r in rules},
        numbers={r.id: n for n, r in enumerate(rules, start=1)},
    )


def opening_state(ground: Ground, site: str) -> State:
    """The floor as it is at the opening."""
    key = ("opening state", site)
    if key not in ground.remembered:
        zone = ground.sites[SiteCode(site)].time_zone
        starts = local_start(zone, _first_day(ground), 8, 30)
        ground.remembered[key] = State(ground, Settings(SiteCode(site), starts))
    found: State = ground.remembered[key]
    return found


def _first_day(ground: Ground) -> Any:
    return min((o.promised for o in ground.orders.values()), default=None)


@api.get("/drafts/<id>/file", responses={200: {"content": {"application/json": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def file(path: ById) -> Response:
    """The rulebook as a file."""
    with wired(current_app).database.transaction() as conn:
        found = _seen(conn, path.id)
    name = f"{found.row.id}.rulebook.json"
    headers = {"Content-Disposition": f"attachment; filename={name}"}
    return Response(rulebook_text(found.rulebook), mimetype="application/json", headers=headers)


@api.put("/drafts/<id>/file", responses={200: DraftView, **PROBLEMS})
@needs(Right.EDIT_RULEBOOK)
def bring_in(path: ById, body: RuleFile) -> DraftView:
    """Replace the draft by a rulebook file; it can be undone."""
    rulebook = read_rulebook(body.text)
    with wired(current_app).database.transaction() as conn:
        _seen(conn, path.id)
        edits = tuple(Edit("set", name, value) for name, value in to_plain(rulebook).items())
        gone = tuple(
            Edit("set", name) for name in to_plain(_seen(conn, path.id).rulebook) if name not in to_plain(rulebook)
        )
        return _view(
            conn,
            wired(current_app).drafts.edit(
                conn, path.id, body.version, (*gone, *edits), "A file was brought in.", person().id
            ),
        )


@api.post("/drafts/<id>/in-force", responses={200: InForce, **PROBLEMS})
@needs(Right.PUT_IN_FORCE)
def put_in_force(path: ById, body: VersionBody) -> InForce:
    """Make the draft the revision in force."""
    with wired(current_app).database.transaction() as conn:
        _seen(conn, path.id)
        return InForce(revision=wired(current_app).drafts.put_in_force(conn, path.id, body.version, person().id))


def _seen(conn: db.Conn, id_: str) -> Draft:
    found = wired(current_app).drafts.get(conn, id_)
    check_site(found.row.site)
    return found


def _view(conn: db.Conn, found: Draft) -> DraftView:
    row, book = found.row, found.rulebook
    parts = wired(current_app)
    ground = parts.worlds.ground(conn, row.opening)
    names = words.Names(ground)
    force = parts.drafts.in_force(conn, row.site)
    return DraftView(
        id=row.id,
        name=row.name,
        site=row.site,
        opening=row.opening,
        version=row.version,
        rulebook=row.rulebook,
        can_undo=row.cursor > 1,
        can_redo=row.cursor < row.last_step,
        says=row.says,
        in_force=force.no if force else None,
        differs_from_force=force is None or force.rulebook != row.rulebook,
        rule_lists=[_rule_list(r, names) for r in book.bin_rules],
        step_plans=[
            _sentence(p.id, f"step_plans/{p.id}", words.plan_sentence(p, f"step_plans/{p.id}")) for p in book.step_plans
        ],
        recipes=[_sentence(r.id, f"recipes/{r.id}", words.recipe_sentence(r, book)) for r in book.recipes],
        flows=[_flow(f, book) for f in book.flows],
        findings=[
            FindingView(code=f.code, severity=f.severity.value, place=f.place, says=f.says, witness=f.witness)
            for f in findings(book, ground, SiteCode(row.site))
        ],
        book=_BOOK.dump_python(book, mode="json"),
    )


def _sentence(id_: str, path: str, parts: words.Sentence, on: bool = True) -> Sentence:
    return Sentence(id=id_, path=path, parts=list(parts), on=on)


def _rule_list(rules: Any, names: words.Names) -> RuleList:
    path = f"bin_rules/{rules.id}"
    listed = []
    for rule in rules.rules:
        at = f"{path}/rules/{rule.id}"
        listed.append(_sentence(rule.id, at, words.rule_sentence(rule, names, at), rule.on))
    return RuleList(id=rules.id, path=path, title=words.list_title(rules), rules=listed)


def _flow(flow: Any, book: Rulebook) -> FlowView:
    path = f"flows/{flow.id}"
    prompts = []
    for prompt in flow.prompts:
        at = f"{path}/prompts/{prompt.id}"
        prompts.append(_sentence(prompt.id, at, words.prompt_sentence(prompt, at)))
    crews = {c.id: c.name for c in book.crews}
    menus = [crews.get(m.crew, m.crew) for m in book.menus if flow.id in m.flows]
    parts = list(words.flow_sentence(flow, path))
    return FlowView(id=flow.id, name=flow.name, path=path, parts=parts, prompts=prompts, menus=menus)
