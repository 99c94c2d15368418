"""Looking things up: a flow that only asks."""

from __future__ import annotations

from typing import ClassVar

from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.kinds import FlowKind
from mindful_crate.core.work.looking.prompts import LookKind
from mindful_crate.core.work.rows import Matter


class LookUp(FlowKind):
    """Nothing comes of it; one looks up the next."""

    waits: ClassVar = {Asks.LOOK: ()}
    needed = (Asks.LOOK,)


LOOKING = Matter("looking", flows={FlowPurpose.LOOK_UP: LookUp()}, prompts={Asks.LOOK: LookKind()})
"""What it brings."""
