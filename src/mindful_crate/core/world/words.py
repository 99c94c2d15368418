"""What events mean: in words for the log, and what each made or chose, for scripts that refer to it."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.world import events as ev
from mindful_crate.core.world.rows import Row, Words, by_kind, silent, telling


def _line_changed(e: ev.LineChanged) -> str:
    return f"`{e.plate}` line {e.line} " + (f"is {e.quantity} now" if e.quantity else "taken off")


def _task_made(e: ev.TaskMade) -> str:
    return f"task `{e.task}`" + (f": `{e.from_bin}` to `{e.to_bin}`" if e.to_bin else " without a bin")


def _task_retargeted(e: ev.TaskRetargeted) -> str:
    return f"task `{e.task}` " + (f"goes to `{e.to_bin}` now" if e.to_bin else "has no bin now")


def _plate_placed(e: ev.PlatePlaced) -> str:
    on = f"on `{e.on}` in" if e.on else "in"
    return f"plate `{e.plate}` placed {on} `{e.bin}`" + (f": {e.reason}" if e.reason else "")


def _goods_placed(e: ev.GoodsPlaced) -> str:
    where = f"on `{e.plate}` in `{e.bin}`" if e.plate else f"in `{e.bin}`"
    placed = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.goods)
    return f"{placed} placed {where}" + (f": {e.reason}" if e.reason else "")


def _stock_reserved(e: ev.StockReserved) -> str:
    return f"`{e.reservation}` keeps {sum(p.goods.quantity for p in e.parts)} of `{e.item}` for {e.holder}"


def _reservation_cut(e: ev.ReservationCut) -> str:
    left = sum(p.goods.quantity for p in e.parts)
    return f"`{e.reservation}` keeps {left} any more" if left else f"`{e.reservation}` has ended"


def _message_sent(e: ev.MessageSent) -> str:
    way = "from the host" if e.order or e.notice else "to the host"
    return f"message `{e.message}` {way}, due {e.due:%H:%M:%S} UTC"


def _dialogue_left(e: ev.DialogueLeft) -> str:
    return f"the dialogue moved to handset `{e.taken_over}`" if e.taken_over else ""


_WORDS: tuple[Row[Words[object]], ...] = (
    silent(ev.NumberDrawn),
    telling(ev.MessageSent, _message_sent),
    silent(ev.MessageAnswered),
    telling(ev.MessageFailed, lambda e: f"message `{e.message}` not delivered" + ("" if e.due else ", given up")),
    telling(ev.MessageRefused, lambda e: f"message `{e.message}` refused: {e.why}"),
    telling(ev.MessageHeardAgain, lambda e: f"message `{e.message}` came again, to no effect"),
    telling(ev.MessageRepeated, lambda e: f"message `{e.message}` is sent again"),
    silent(ev.HostSet),
    telling(ev.HostOrderWritten, lambda e: f"`{e.order.number}` written in the host"),
    silent(ev.HostOrderConfirmed),
    telling(ev.HostOrderCancelled, lambda e: f"`{e.order}` cancelled in the host"),
    telling(ev.HostOrderOpened, lambda e: f"@{e.person} has `{e.order}` open"),
    telling(ev.HostOrderClosed, lambda e: f"nobody has `{e.order}` open any more"),
    telling(ev.OrderTold, lambda e: f"`{e.order.number}` has {len(e.order.lines)} lines on the floor"),
    telling(ev.OrderDropped, lambda e: f"`{e.order}` is cancelled on the floor"),
    telling(
        ev.NoticeTold,
        lambda e: f"`{e.notice.number}` announces {len(e.notice.plates)} plates of `{e.notice.order}`",
    ),
    telling(ev.OrderConfirmed, lambda e: f"`{e.order}` reached the floor"),
    telling(ev.ReceiptBooked, lambda e: f"receipt `{e.receipt}` booked"),
    silent(ev.DialogueOpened),
    silent(ev.DialogueMoved),
    telling(ev.DialogueLeft, _dialogue_left),
    telling(ev.Scanned, lambda e: f"read `{e.text}` as {e.read_as}"),
    telling(ev.PlateStarted, lambda e: f"plate `{e.plate}` begun in `{e.bin}`"),
    telling(ev.LoadStarted, lambda e: f"receipt `{e.load}` begun, loose into `{e.into}`"),
    telling(ev.LineNoted, lambda e: f"`{e.plate}` line {e.line}: {e.quantity} of `{e.item}` for `{e.order}`"),
    telling(ev.LineChanged, _line_changed),
    telling(ev.PlateFinished, lambda e: f"plate `{e.plate}` is stock, receipt `{e.receipt}`"),
    telling(ev.TaskMade, _task_made),
    telling(ev.TaskTaken, lambda e: f"@{e.person} took up task `{e.task}`"),
    telling(ev.TaskRetargeted, _task_retargeted),
    telling(ev.PlatePlaced, _plate_placed),
    telling(ev.GoodsPlaced, _goods_placed),
    telling(ev.StockReserved, _stock_reserved),
    telling(ev.ReservationCut, _reservation_cut),
    telling(ev.BinBlocked, lambda e: f"bin `{e.bin}` " + (f"blocked: {e.reason}" if e.reason else "free")),
    silent(ev.TimePassed),
)
TOLD = by_kind(_WORDS)
"""What the log says of every event."""


def event_told(event: ev.Event) -> str:
    """An event in a few words, for the log; empty for those that only keep the books."""
    return TOLD[type(event)](event)


Made = Literal["plate", "bin", "reservation"]
"""What a later step of a script may refer to."""
MADE = {
    "plate": by_kind(
        (
            telling(ev.PlateStarted, lambda e: e.plate),
            telling(ev.LoadStarted, lambda e: e.load),
            telling(ev.PlateFinished, lambda e: e.plate),
        )
    ),
    "bin": by_kind(
        (telling(ev.TaskMade, lambda e: e.to_bin or ""), telling(ev.TaskRetargeted, lambda e: e.to_bin or ""))
    ),
    "reservation": by_kind((telling(ev.StockReserved, lambda e: e.reservation),)),
}
"""The plate that an event makes or finishes, the bin it chooses, the reservation it makes."""


def made_in(entry: ev.Entry, what: Made) -> str | None:
    """The plate or reservation a log entry made, or the bin it chose; None if it did not."""
    if not isinstance(entry.outcome, ev.Done):
        return None
    says = MADE[what]
    return next((found for e in entry.outcome.events if (by := says.get(type(e))) and (found := by(e))), None)
