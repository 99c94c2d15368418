"""Looking things up: a flow that only asks."""

from __future__ import annotations

from typing import ClassVar

from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.kinds import Context, FlowKind
from mindful_crate.core.work.looking.prompts import LOOKED, LookKind
from mindful_crate.core.work.rows import Matter


class LookUp(FlowKind):
    """Nothing comes of it; one looks up the next."""

    waits: ClassVar = {Asks.LOOK: ()}
    needed = (Asks.LOOK,)

    def in_hand(self, ctx: Context, answers: Answers) -> str:
        """What was looked up last, of the things that have labels."""
        looked = answers[LOOKED]
        return looked.code if looked and looked.kind in ("plate", "bin", "item") else ""


LOOKING = Matter("looking", flows={FlowPurpose.LOOK_UP: LookUp()}, prompts={Asks.LOOK: LookKind()})
"""What it brings."""
