"""Sweeping up: what lies loose in a bin is swept out and is no more. A made-up matter, in one module; `test_made_up_matter.py`
puts it into a copy of the core."""

from __future__ import annotations

from collections.abc import Iterable
from typing import ClassVar, Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, ItemCode
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.ledger import Account, Cause
from mindful_crate.core.floor.plates import in_bin
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.codes import filled_bins, plain
from mindful_crate.core.scanning.kinds import BIN, Codes, Context, FlowKind, PromptKind
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.rows import Matter, deciding, folding, telling
from mindful_crate.core.work.stamp import At, Stamp


@record
class SweepUp:
    """Sweeps a bin out."""

    bin: BinCode
    kind: Literal["sweep_up"] = "sweep_up"


@record
class SweptUp:
    """Goods were swept out of a bin."""

    bin: BinCode
    goods: tuple[Goods, ...]
    kind: Literal["swept_up"] = "swept_up"


def _sweep(state: State, making: Making, _: Rulebook, __: Stamp, act: SweepUp) -> str:
    goods = state.loose(act.bin)
    if not goods:
        raise Refusal("nothing_loose", f"Nothing lies loose in `{act.bin}`.")
    making.event(SweptUp(act.bin, goods))
    return f"`{act.bin}` is swept."


def _swept(state: State, e: SweptUp, _: At) -> None:
    state.ledger.leave(Cause.ADJUSTMENT, in_bin(e.bin), e.goods)


class ShardsKind(PromptKind):
    """Where do they lie?"""

    wants = "a bin"

    def needed(self, ctx: Context, answers: Answers) -> bool:
        return answers[BIN] is None

    def take(self, ctx: Context, answers: Answers, reading: Reading) -> Answers:
        if reading.kind is not Read.BIN:
            raise self.wrong(ctx, answers, reading)
        return answers.having(BIN, BinCode(reading.code))

    def title(self, ctx: Context, answers: Answers) -> str:
        return "Where do the shards lie?"

    def codes(self, ctx: Context, answers: Answers, question: Question) -> Codes:
        for code in filled_bins(ctx, 2):
            yield plain(f"bin {code}", code)


class Sweep(FlowKind):
    """Bin by bin."""

    waits: ClassVar = {Asks.SHARDS: ()}  # type: ignore[attr-defined]
    needed = (Asks.SHARDS,)  # type: ignore[attr-defined]

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        return SweepUp(answers.known(BIN)), Answers()


class SweepingPaper(PaperKind):
    """What was swept of an item."""

    kind = DocKind.SWEEPING  # type: ignore[attr-defined]

    def there(self, state: State, number: str) -> bool:
        return Account(Cause.ADJUSTMENT, ItemCode(number)) in state.ledger.accounts

    def all(self, state: State) -> Iterable[str]:
        return (a.item for a in state.ledger.accounts if a.cause is Cause.ADJUSTMENT)

    def doc(self, papers: Papers, number: str) -> Doc:
        gone = -(papers.state.ledger.accounts.get(Account(Cause.ADJUSTMENT, ItemCode(number))) or 0)
        return Doc(self.kind, number, "sweepings", (Stage("swept", True, 0, f"{gone} gone"),))


def nothing_is_swept_in(state: State) -> list[str]:
    """Sweeping only takes."""
    return [f"{a} is {n}" for a, n in state.ledger.accounts.items() if a.cause is Cause.ADJUSTMENT and n > 0]


SWEEPING = Matter(
    "sweeping",
    decides=(deciding(SweepUp, _sweep),),
    folds=(folding(SweptUp, _swept),),
    words=(telling(SweptUp, lambda e: f"`{e.bin}` swept"),),
    asked=(telling(SweepUp, lambda a: f"The office has `{a.bin}` swept"),),
    flows={FlowPurpose.SWEEP: Sweep()},  # type: ignore[attr-defined]
    prompts={Asks.SHARDS: ShardsKind()},  # type: ignore[attr-defined]
    papers=(SweepingPaper(),),
    invariants=(nothing_is_swept_in,),
)
