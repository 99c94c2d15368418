"""Run in a copy of the core that knows sweeping: on the handset, in the tray, in the log's words, in the chain, in a recorded
rehearsal, in the invariants."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from mindful_crate.core.work.sweeping import SweepUp, SweptUp  # type: ignore[import-not-found]

from mindful_crate.core.catalog.ids import BinCode, FlowId, PromptId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.ledger import Account, Cause
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.recording import record
from mindful_crate.core.proving.rehearse import open_dialogue, run, settings_of
from mindful_crate.core.proving.telling import does
from mindful_crate.core.rulebook.flows import Asks, Flow, FlowPurpose, Menu, Prompt
from mindful_crate.core.rulebook.words.scanner import flow_sentence, prompt_sentence
from mindful_crate.core.world.chain import chain, find
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.tray import tray
from mindful_crate.core.world.versions import read_entry, stored
from mindful_crate.core.world.words import event_told
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rehearsals, demo_rulebook
from mindful_crate.files import gs1
from tests.playbook import Play, new_world

asks: Any = Asks
purposes: Any = FlowPurpose
ground, rulebook = Ground(demo_opening()), demo_rulebook()
flow = Flow(FlowId("F-SWEEP"), "Sweep", purposes.SWEEP, (Prompt(PromptId("P-S"), asks.SHARDS),))
book = replace(
    rulebook,
    flows=(*rulebook.flows, flow),
    menus=(*rulebook.menus, Menu("MN-S", rulebook.crews[0].id, (flow.id,))),
)
assert not [f for f in findings(book, ground, settings_of(demo_rehearsals()[0]).site) if "F-SWEEP" in f.place]
assert "sweep shards up" in "".join(p.text for p in flow_sentence(flow))
assert "The shards" in "".join(p.text for p in prompt_sentence(flow.prompts[0]))

play = Play(new_world(ground, book)).opens("F-SWEEP").asks("shards", "Where do the shards lie?")
dialogue = open_dialogue(play.state, play.device)
assert dialogue is not None
codes = tray(play.state, book, play.stamp(), dialogue)
assert codes and codes[0].taken and codes[0].says == f"`{codes[0].text}` is swept."
code = BinCode(codes[0].text)
goods = play.state.loose(code)
play.scan("PO-1007").refused("wrong_kind", "scan a bin").scan(code).done("is swept").asks("shards")
entry = play.world.log[-1]
swept = [e for e in entry.outcome.events if isinstance(e, SweptUp)]  # type: ignore[union-attr]
assert [event_told(e) for e in swept] == [f"`{code}` swept"]
assert read_entry(stored(entry)) == entry, "it is stored and read"
assert play.state.loose(code) == () and broken(play.state) == []
play.scan(code).refused("nothing_loose").press("leave")
other = next(c for c in (b for b in ground.bins) if play.state.loose(c) and ground.site_of(c) == ground.site_of(code))
act: Any = SweepUp(other)
play.do(act).done("is swept")

item = goods[0].item
ref = find(play.state, item)
assert ref is not None and [d.stages[0].word for d in chain(play.state, ref)] == ["swept"]

head = replace(demo_rehearsals()[0], id="sweeping", steps=(), at_end=())
script = record(head, tuple(play.world.log), World(ground, settings_of(head), book, play.world.today), {}, ())
assert does(script.steps[-1].do) == f"The office has `{other}` swept"
result, world = run(script, ground, book, lambda at: at.date(), gs1.split)
assert result.passed and result.first_difference is None, result
assert world.state.loose(code) == () and world.state.loose(other) == ()

play.state.ledger.accounts.put(Account(Cause.ADJUSTMENT, item), 5)
assert any("adjustment" in says for says in broken(play.state))
print("known everywhere")
