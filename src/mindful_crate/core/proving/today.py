"""The numbers of the first page that are read off a floor: what waits, for whom, and where one does something about it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from datetime import datetime
from typing import Literal

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.floor.waves import WaveState, state_of
from mindful_crate.core.proving.on_handset import orders_shown
from mindful_crate.core.proving.release_list import release_list
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import any_of


@record
class Figure:
    """A number, what is said of it, how it is marked, and the page that does something about it."""

    value: int
    says: str
    link: str
    mark: Literal["holds", "doubt", "stops", "information"] = "information"


Counts = Callable[[State, Rulebook, datetime], Figure]


def _few(codes: list[str], most: int = 3) -> str:
    """The first of some codes, and how many more there are."""
    codes = sorted(codes)
    shown = ", ".join(f"`{c}`" for c in codes[:most])
    return f"{shown} and {len(codes) - most:,} more" if len(codes) > most else shown


def _going(state: State) -> list[Task]:
    return [t for t in state.tasks.values() if not t.state.ended]


def tasks_open(state: State, book: Rulebook, now: datetime) -> Figure:
    """Tasks that nobody has taken up, by crew."""
    carried = set(state.tasks.all_carried())
    crews = {c.id: c.name for c in book.crews}
    found = Counter(
        crews.get(t.crew, str(t.crew)) if t.crew else "nobody" for t in _going(state) if t.number not in carried
    )
    says = ", ".join(f"{name} {n:,}" for name, n in sorted(found.items())) or "No task waits."
    return Figure(sum(found.values()), says, "/documents?kind=task")


def in_hands(state: State, book: Rulebook, now: datetime) -> Figure:
    """Tasks whose plates or goods somebody carries."""
    found = [state.tasks[n] for n in state.tasks.all_carried()]
    who = any_of(dict.fromkeys(f"@{t.person}" for t in found if t.person))
    return Figure(len(found), f"Carried by {who}." if who else "Nobody carries anything.", "/documents?kind=task")


def without_bin(state: State, book: Rulebook, now: datetime) -> Figure:
    """Tasks for which the rules found no bin: the worker is asked."""
    found = [str(t.number) for t in _going(state) if t.to_bin is None]
    says = f"{_few(found)}: the worker is asked for a bin." if found else "The rules found a bin for every task."
    return Figure(len(found), says, "/bin-rules", "doubt" if found else "holds")


def untold(state: State, book: Rulebook, now: datetime) -> Figure:
    """Receipts that the host has not been told of."""
    found = [str(r.number) for r in state.receipts.values() if not r.told]
    says = f"{_few(found)}: here, and the host does not know." if found else "The host knows of all that arrived."
    return Figure(len(found), says, "/documents?kind=receipt", "doubt" if found else "holds")


def turned_down(state: State, book: Rulebook, now: datetime) -> Figure:
    """Receipts that the host refused."""
    found = [r for r in state.receipts.values() if r.refused]
    says = f"`{found[0].number}`: {found[0].refused}" if found else "The host refused nothing."
    return Figure(len(found), says, "/host", "stops" if found else "holds")


def given_up(state: State, book: Rulebook, now: datetime) -> Figure:
    """Messages that did not get through and are not tried any more."""
    found = [str(m.number) for m in state.messages.values() if m.state is MessageState.GIVEN_UP]
    says = f"{_few(found)}: repeat them on Host." if found else "Every message got through."
    return Figure(len(found), says, "/host", "stops" if found else "holds")


def waiting(state: State, book: Rulebook, now: datetime) -> Figure:
    """Messages on their way between floor and host."""
    found = [m for m in state.messages.values() if m.state is MessageState.WAITING]
    return Figure(len(found), "On their way to or from the host." if found else "None is on its way.", "/host")


def to_receive(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders that are on a handset."""
    found = [str(s.order) for s in orders_shown(state, book) if s.shown]
    return Figure(len(found), f"{_few(found)}." if found else "No order is on a handset.", "/orders")


def kept_away(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders the floor knows, with lines open, which no handset shows."""
    found = [s for s in orders_shown(state, book) if not s.shown and state.is_confirmed(s.order) and s.waiting]
    says = f"`{found[0].order}`: {found[0].says}" if found else "What the host confirmed is on a handset."
    return Figure(len(found), says, "/orders", "stops" if found else "holds")


def late(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders to receive that were promised for an earlier day."""
    site = state.settings.site
    found = [
        o for o in state.all_orders()
        if o.site == site and o.inbound and o.promised < now.date() and not state.is_cancelled(o.number) and state.lines_open(o)
    ]  # fmt: skip
    found.sort(key=lambda o: (o.promised, o.number))
    says = f"`{found[0].number}` since {found[0].promised:%d %b}." if found else "No order is late."
    return Figure(len(found), says, "/orders", "doubt" if found else "holds")


def unconfirmed(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders that wait to be confirmed in the host."""
    site = state.settings.site
    found = [
        str(o.number) for o in state.all_orders()
        if o.site == site and o.inbound and not state.is_confirmed(o.number) and not state.is_cancelled(o.number)
    ]  # fmt: skip
    return Figure(len(found), f"{_few(found)}." if found else "None waits.", "/host")


def open_for_editing(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders that somebody has open in the host: nobody receives them meanwhile."""
    found = [(n, o) for n, o in sorted(state.host_orders.items()) if o.held_by(state.clock)]
    says = f"`{found[0][0]}` by @{found[0][1].editor}." if found else "None is open."
    return Figure(len(found), says, "/host", "doubt" if found else "holds")


def may_go(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders that may be released, with a warning or without."""
    found = [str(w.order.number) for w in release_list(state, book, now) if w.stands in ("warn", "pass")]
    return Figure(len(found), f"{_few(found)}." if found else "No order waits to be released.", "/release")


def stopped(state: State, book: Rulebook, now: datetime) -> Figure:
    """Orders that reached the floor and that a gate stops."""
    found = [w for w in release_list(state, book, now) if w.stands == "stop"]
    says = (
        f"`{found[0].order.number}`: {at.name} {at.says}."
        if found and (at := found[0].judged.waits_at)
        else "No gate stops an order."
    )
    return Figure(len(found), says, "/release?stands=stop", "doubt" if found else "holds")


def awaits_wave(state: State, book: Rulebook, now: datetime) -> Figure:
    """Released orders that wait for a wave."""
    found = [str(r.order) for r in state.releases.values() if r.waits]
    return Figure(len(found), f"{_few(found)}." if found else "No released order waits for a wave.", "/board")


def waves_open(state: State, book: Rulebook, now: datetime) -> Figure:
    """Waves that are neither done nor cancelled; those that are held are named."""
    known = [(w, state_of(w, state.tasks)) for w in state.waves.values()]
    found = [w for w, s in known if s not in (WaveState.DONE, WaveState.CANCELLED)]
    held = [str(w.number) for w, s in known if s in (WaveState.HELD, WaveState.GATHERED)]
    says = f"{_few(held)}: not let go." if held else "All of them may be worked." if found else "No wave is open."
    return Figure(len(found), says, "/board", "doubt" if held else "holds")


def to_count(state: State, book: Rulebook, now: datetime) -> Figure:
    """Lines of sheets that nobody has counted yet; those that are counted again are named apart."""
    left = [x for s in state.counts.unfinished() for x in s.open_lines]
    again = sum(bool(x.again) for x in left)
    says = (
        f"{again:,} of them again, by somebody else."
        if again
        else "On sheets."
        if left
        else "Nothing is to be counted."
    )
    return Figure(len(left), says, "/counts")


def to_post(state: State, book: Rulebook, now: datetime) -> Figure:
    """Lines that were counted and are not in the books, and how many of them differ."""
    found = [(s, x) for s in state.counts.unfinished() for x in s.unposted]
    off = sum(x.difference != 0 for _, x in found)
    sheets = _few(list(dict.fromkeys(str(s.number) for s, _ in found)))
    says = f"{sheets}: {off:,} of them differ." if found else "All that was counted is in the books."
    return Figure(len(found), says, "/counts", "doubt" if found else "holds")


def held_back(state: State, book: Rulebook, now: datetime) -> Figure:
    """Lines of returns that were held for a supervisor and are still kept apart."""
    found = [
        key for key, m in state.returned.items()
        if m.held and any(x.goods.status is Status.QUARANTINE for x in state.lines(m.item))
    ]  # fmt: skip
    says = (
        f"{_few([str(k.order) for k in found])}: look at what is in quarantine."
        if found
        else "No return waits for a supervisor."
    )
    return Figure(len(found), says, "/stock", "doubt" if found else "holds")


def handsets(state: State, book: Rulebook, now: datetime) -> Figure:
    """Handsets in the middle of a flow."""
    found = [d for d in state.dialogues.values() if d.open]
    who = any_of(sorted({f"@{d.person}" for d in found}))
    return Figure(
        len(found), f"In the hands of {who}." if who else "No handset is in the middle of something.", "/floor"
    )


def blocked(state: State, book: Rulebook, now: datetime) -> Figure:
    """Bins that are blocked."""
    here = {
        b.code for z in state.ground.zones_of_site.get(state.settings.site, ()) for b in state.ground.bins_by_zone[z]
    }
    found = sorted(str(code) for code in here if state.blocked(code) is not None)
    return Figure(len(found), f"{_few(found)}." if found else "No bin is blocked.", "/stock")


def past_date(state: State, book: Rulebook, now: datetime) -> Figure:
    """Rows of stock past their date that are still available."""
    found = [
        (str(code or (plate and plate.number)), goods) for code, plate, goods in state.stock()
        if goods.expiry and goods.expiry < now.date() and goods.status is Status.AVAILABLE
    ]  # fmt: skip
    says = f"{_few(list(dict.fromkeys(c for c, _ in found)))}: may still be taken." if found else "None."
    return Figure(len(found), says, "/stock", "stops" if found else "holds")


FLOOR: dict[str, tuple[str, Counts]] = {
    "tasks_open": ("Tasks that wait", tasks_open),
    "in_hands": ("Tasks in hands", in_hands),
    "without_bin": ("Tasks without a bin", without_bin),
    "untold": ("Receipts the host does not know", untold),
    "turned_down": ("Receipts the host refused", turned_down),
    "given_up": ("Messages given up", given_up),
    "waiting": ("Messages on their way", waiting),
    "to_receive": ("Orders on a handset", to_receive),
    "kept_away": ("Orders kept off the handset", kept_away),
    "late": ("Orders that are late", late),
    "unconfirmed": ("Orders to confirm", unconfirmed),
    "open_for_editing": ("Orders open for editing", open_for_editing),
    "may_go": ("Orders to release", may_go),
    "stopped": ("Orders stopped by a gate", stopped),
    "awaits_wave": ("Orders waiting for a wave", awaits_wave),
    "waves_open": ("Waves", waves_open),
    "to_count": ("Lines to count", to_count),
    "to_post": ("Counts to post", to_post),
    "held_back": ("Returns held", held_back),
    "handsets": ("Handsets at work", handsets),
    "blocked": ("Bins blocked", blocked),
    "past_date": ("Stock past its date", past_date),
}
"""Numbers of the floor: title and count."""
PROOF: dict[str, str] = {
    "stops": "Findings that stop the draft",
    "doubts": "Findings in doubt",
    "rehearsals": "Rehearsals to look at",
    "differs": "Drafts not in force",
    "behind": "Drafts that stay behind",
}
"""Numbers of the rulebook: title."""
FIRST: dict[str, tuple[str, ...]] = {
    "analyst": ("stops", "doubts", "rehearsals", "differs", "kept_away", "without_bin", "tasks_open", "given_up"),
    "supervisor": ("tasks_open", "in_hands", "handsets", "kept_away", "late", "untold", "turned_down", "given_up"),
    "floor": ("tasks_open", "in_hands", "to_receive", "late"),
    "viewer": ("tasks_open", "to_receive", "late", "untold", "blocked", "past_date"),
}
"""What a person sees first, by role, until they choose."""
