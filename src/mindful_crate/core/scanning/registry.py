"""All kinds of prompt, by what they ask."""

from __future__ import annotations

from mindful_crate.core.rulebook.flows import Asks
from mindful_crate.core.scanning.kinds import RECEIVING_KINDS, Kind
from mindful_crate.core.scanning.move_kinds import MOVE_KINDS

KINDS: dict[Asks, Kind] = {**RECEIVING_KINDS, **MOVE_KINDS}
