"""What the log says of its events: receiving goods."""

from __future__ import annotations

from mindful_crate.core.work.receiving.acts import (
    CloseRest,
    FinishPlate,
    ReceiveInOffice,
    ReopenRest,
    SendSurplusBack,
    TakeSurplus,
)
from mindful_crate.core.work.receiving.events import (
    LineChanged,
    LineClosed,
    LineNoted,
    LineReopened,
    LoadStarted,
    PlateFinished,
    PlateStarted,
    SurplusSentBack,
    SurplusTaken,
)
from mindful_crate.core.work.rows import Made, Row, Words, telling


def _line_changed(e: LineChanged) -> str:
    return f"`{e.plate}` line {e.line} " + (f"is {e.quantity} now" if e.quantity else "taken off")


def _finished(e: PlateFinished) -> str:
    if str(e.plate) == e.receipt:  # a load goes by the number of its receipt
        return f"what came on receipt `{e.receipt}` is stock, loose"
    return f"plate `{e.plate}` is stock, receipt `{e.receipt}`"


WORDS: tuple[Row[Words[object]], ...] = (
    telling(PlateStarted, lambda e: f"plate `{e.plate}` begun in `{e.bin}`"),
    telling(LoadStarted, lambda e: f"receipt `{e.load}` begun, loose into `{e.into}`"),
    telling(
        LineNoted,
        lambda e: (
            f"`{e.plate}` line {e.line}: {e.quantity} of `{e.item}` for `{e.order}`"
            + (f", {e.over} more than ordered" if e.over else "")
        ),
    ),
    telling(LineChanged, _line_changed),
    telling(PlateFinished, _finished),
    telling(LineClosed, lambda e: f"{e.quantity} of `{e.order}` line {e.line} are not waited for: {e.why}"),
    telling(
        SurplusTaken, lambda e: f"what was held of `{e.receipt}` is taken by @{e.by}" + (f": {e.why}" if e.why else "")
    ),
    telling(SurplusSentBack, lambda e: f"what was held of `{e.receipt}` is sent back by @{e.by}: {e.why}"),
    telling(LineReopened, lambda e: f"{e.quantity} of `{e.order}` line {e.line} are waited for again"),
)
"""What the log says of its events."""


def _received(a: ReceiveInOffice) -> str:
    what = ", ".join(f"{x.quantity:,} of `{x.item}`" for x in a.lines)
    how = "loose" if a.plate_kind is None else f"onto a plate{f' `{a.plate}`' if a.plate else ''}"
    why = f": {a.why.strip()}" if a.why.strip() else ""
    return f"The office receives {what} of `{a.order}` {how}{'' if a.finish else ', to be finished later'}{why}"


ASKED: tuple[Row[Words[object]], ...] = (
    telling(FinishPlate, lambda a: f"The office finishes plate `{a.plate}`"),
    telling(ReceiveInOffice, _received),
    telling(CloseRest, lambda a: f"Nothing more of `{a.item}` on `{a.order}` is waited for: {a.why.strip()}"),
    telling(
        TakeSurplus,
        lambda a: f"The office takes what is held of `{a.receipt}`" + (f": {a.why.strip()}" if a.why.strip() else ""),
    ),
    telling(SendSurplusBack, lambda a: f"The office sends back what is held of `{a.receipt}`: {a.why.strip()}"),
    telling(ReopenRest, lambda a: f"The rest of `{a.item}` on `{a.order}` is waited for again"),
)
"""What the office asks, in words."""
MAKES: dict[Made, tuple[Row[Words[object]], ...]] = {
    "plate": (
        telling(PlateStarted, lambda e: e.plate),
        telling(LoadStarted, lambda e: e.load),
        telling(PlateFinished, lambda e: e.plate),
    )
}
"""What its events make or finish."""
