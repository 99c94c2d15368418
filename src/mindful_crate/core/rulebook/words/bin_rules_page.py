"""The page of bin rules: a tab a list, rules as sentences, their places a line each."""

from __future__ import annotations

from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule, BinRuleList
from mindful_crate.core.rulebook.chapter import (
    Act,
    Add,
    Chapter,
    Draw,
    Row,
    Section,
    Tab,
    copy_act,
    layer_acts,
    options,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.words.bin_rules import TAB_TITLES, list_title, rule_sentence
from mindful_crate.core.rulebook.words.parts import Part, just

PUTS = "Tried from the top. What a rule leaves over goes on to the next; if none has a bin, the worker is asked."
TAKES = "Tried from the top. What a rule leaves over goes on to the next; stock that is reserved, blocked or expired is never taken."


def draw(what: Draw, tab: str) -> Chapter:
    """One list of rules: that of the tab, else the first."""
    lists = [x for purpose in TAB_TITLES for x in what.book.lists_for(what.site, purpose)]
    tried = {x.purpose: x.id for x in reversed(lists)}
    shown = next(
        (x for x in lists if tab == x.id or (tab == x.purpose.value and tried[x.purpose] == x.id)), None
    ) or next((x for x in lists if any(r.id == tab for r in x.rules)), lists[0] if lists else None)
    missing = options(TAB_TITLES, [x.purpose for x in lists])
    begin = Add("+ another list", "bin_rules", "A list of bin rules was begun.", missing) if missing else None
    tabs = tuple(
        Tab(
            x.purpose.value if tried[x.purpose] == x.id else x.id,
            TAB_TITLES[x.purpose] + ("" if tried[x.purpose] == x.id else ", all sites"),
            len(what.notes(f"bin_rules/{x.id}")),
        )
        for x in lists
    )
    if shown is None:
        nothing = Section("rules", "sentences", empty="There are no bin rules yet. Begin a list above.")
        return Chapter("bin-rules", "Bin rules", begin=begin, sections=(nothing,), bench="puts", asks="put_away")
    lead = TAKES if shown.purpose.takes else PUTS
    if tried[shown.purpose] != shown.id:
        lead = "This list holds at sites that have none of their own; here that one is tried."
    on = next(t.id for t, x in zip(tabs, lists, strict=True) if x is shown)
    return Chapter(
        "bin-rules", list_title(shown.purpose), lead, tabs, on, begin,
        (_list(what, shown, tab),), "takes" if shown.purpose.takes else "puts", shown.purpose.value,
    )  # fmt: skip


def _list(what: Draw, list_: BinRuleList, tab: str) -> Section:
    path, drawn = f"bin_rules/{list_.id}", what.first(list_.rules, tab)
    gone = Act(
        "remove",
        "Remove this list",
        (Edit("remove", path),),
        "A list of bin rules was removed.",
        look=bool(list_.rules),
    )
    return Section(
        "rules", "sentences", empty="There is no rule yet: every worker would be asked for a bin. Add the first one.",
        ordered=True, called="Rule", add=(Add("Add a rule", f"{path}/rules", "A rule was added."),),
        acts=(*layer_acts(path, "This list", list_, what.site), gone), for_all=list_.site is None,
        rows=tuple(_rule(what, list_.purpose, rule, n, f"{path}/rules") for n, rule in enumerate(drawn, start=1)),
        more=len(list_.rules) - len(drawn),
    )  # fmt: skip


def _rule(what: Draw, purpose: BinPurpose, rule: BinRule, n: int, list_: str) -> Row:
    path = f"{list_}/{rule.id}"
    parts = what.parts(rule_sentence(rule, what.names, path, purpose))
    acts = (
        switch_act(f"{path}/on", rule.on, f"Rule {n}"), copy_act(path, f"Rule {n} was copied."),
        remove_act(path, f"Rule {n} was removed."),
    )  # fmt: skip
    shown = tuple(p for p in _lines(parts, f"{path}/targets/", len(rule.targets)) if not _added(p, path))
    return Row(
        rule.id, path, shown, off=not rule.on, lists=(_places(what, rule, parts, path),), fold="Places",
        notes=what.notes(path), acts=acts,
    )  # fmt: skip


def _added(part: Part, path: str) -> bool:
    """What a place lacks is added where its places are listed."""
    return part.kind == "add" and part.path.startswith(f"{path}/targets/")


def _lines(parts: tuple[Part, ...], targets: str, count: int) -> tuple[Part, ...]:
    """A rule with several places is set a line for each, so that it is taken in at a glance."""
    if count < 2:
        return parts
    seen = ""
    found = []
    for part in parts:
        place = part.path[len(targets) :].partition("/")[0] if part.path.startswith(targets) else ""
        if place and place != seen:
            seen, part = place, evolve(part, line="in")
        elif part.kind == "word" and part.path.endswith("/split"):
            part = evolve(part, line="out")
        found.append(part)
    return tuple(found)


def _places(what: Draw, rule: BinRule, parts: tuple[Part, ...], path: str) -> Section:
    rows = []
    for n, target in enumerate(rule.targets, start=1):
        place = f"{path}/targets/{target.id}"
        own = [p for p in parts if p.kind != "text" and (p.path == place or p.path.startswith(f"{place}/"))]
        listed = [q for k, p in enumerate(own) for q in ([just(", ")] if k and p.kind == "word" else []) + [p]]
        acts = (copy_act(place, f"Place {n} was copied."), remove_act(place, f"Place {n} was removed."))
        rows.append(Row(target.id, place, tuple(listed), acts=acts))
    return Section(
        "places", "sentences", "Places this rule looks in", ordered=True, called="Place",
        add=(Add("+ further place", f"{path}/targets", "A further place was added."),), rows=tuple(rows),
    )  # fmt: skip
