"""What somebody may do: by role, and what a person is given besides at a site. Which act of the office needs which right."""

from __future__ import annotations

from dataclasses import fields
from enum import StrEnum
from typing import get_args

from mindful_crate.core.world import acts
from mindful_crate.store.rows import PersonRow


class Right(StrEnum):
    """Something a role may do."""

    LOOK = "look"
    EDIT_RULEBOOK = "edit_rulebook"
    PUT_IN_FORCE = "put_in_force"
    REHEARSE = "rehearse"
    """Run rehearsal worlds, also with the hands of others."""
    SCAN = "scan"
    """Work on a handset with one's own hands, in a live world too."""
    ORDERS = "orders"
    """The host's orders: written, confirmed, changed, cancelled, announced; a site for those that name none."""
    TASKS = "tasks"
    """Whose work is done next: tasks made, held, let go, given to another crew, raised, cancelled."""
    BOOK_BY_HAND = "book_by_hand"
    STEP_IN_OFFICE = "step_in_office"
    """A step that is scanned on the floor, done in the office."""
    CLOSE_SHORT = "close_short"
    """The rest of what was ordered not waited for any more."""
    UNDO = "undo"
    """Steps that were finished, undone, also those of others."""
    RESERVE = "reserve"
    """Stock kept for somebody, or no longer."""
    RELEASE = "release"
    """Orders released to be worked, and taken back."""
    WAVES = "waves"
    """What is worked together, held, let go, cancelled."""
    PASS_GATE = "pass_gate"
    """An order let past a gate that stops it, or given another gate."""
    WORD = "word"
    """Yes or no said to an order at a gate that asks for somebody's word."""
    SHIFT_COVER = "shift_cover"
    """What is promised to one order, promised to another."""
    COUNTS = "counts"
    """What is counted: sheets made, counted again, dropped."""
    POST_COUNTS = "post_counts"
    """What was counted taken into the books."""
    ADJUST = "adjust"
    """Stock set to what is there, with a reason."""
    STATUS = "status"
    """Stock quarantined, damaged, freed again."""
    BLOCK = "block"
    """Bins blocked and freed."""
    OFFICE = "office"
    """What else the office does in a live world."""
    HOST = "host"
    """Tell orders and answer messages, as the host of a site."""
    PEOPLE = "people"
    """Look after people: who they are, what they may do, their badges and sessions."""


SAYS: dict[Right, str] = {
    Right.LOOK: "look at everything of the sites",
    Right.EDIT_RULEBOOK: "write the rules, and what they are about",
    Right.PUT_IN_FORCE: "put rules in force, also on a live floor",
    Right.REHEARSE: "try and rehearse, also with the hands of others",
    Right.SCAN: "work with a handset on the live floor",
    Right.ORDERS: "the host's orders: write, confirm, announce, cancel; give a site to those that name none",
    Right.TASKS: "lead the work: make, hold, raise, cancel tasks, give them to another crew",
    Right.BOOK_BY_HAND: "tell the host of a receipt by hand",
    Right.STEP_IN_OFFICE: "do a scanned step in the office: receive, finish a plate, inspect, put away, pack, load, ship, print labels",
    Right.CLOSE_SHORT: "close an order line short, or open it again",
    Right.UNDO: "undo finished steps of others",
    Right.RESERVE: "keep stock for somebody, and let it go",
    Right.RELEASE: "release orders, and take releases back",
    Right.WAVES: "make waves, hold them and let them go",
    Right.PASS_GATE: "let an order past its gate, or give it another",
    Right.WORD: "say yes or no to an order at a gate that asks for a word",
    Right.SHIFT_COVER: "promise to one order what another has",
    Right.COUNTS: "have bins counted, counted again, or no more",
    Right.POST_COUNTS: "take what was counted into the books",
    Right.ADJUST: "set stock to what is there, with a reason",
    Right.STATUS: "change the status of stock: quarantine it, free it",
    Right.BLOCK: "block and free bins",
    Right.OFFICE: "set how the host, printers and scales answer, and ask them again",
    Right.HOST: "tell and answer as the host, with a key",
    Right.PEOPLE: "look after people",
}
"""What each right is, as a list of them says it."""
GIVEN_APART: tuple[Right, ...] = (
    Right.ORDERS,
    Right.TASKS,
    Right.BOOK_BY_HAND,
    Right.STEP_IN_OFFICE,
    Right.CLOSE_SHORT,
    Right.UNDO,
    Right.RESERVE,
    Right.RELEASE,
    Right.WAVES,
    Right.PASS_GATE,
    Right.WORD,
    Right.SHIFT_COVER,
    Right.COUNTS,
    Right.POST_COUNTS,
    Right.ADJUST,
    Right.STATUS,
    Right.BLOCK,
)
"""Rights that a person may be given besides what the role brings, site by site."""
_LEADING = frozenset(GIVEN_APART)
ROLES: dict[str, frozenset[Right]] = {
    "analyst": frozenset({Right.LOOK, Right.EDIT_RULEBOOK, Right.PUT_IN_FORCE, Right.REHEARSE, Right.PEOPLE}),
    "supervisor": frozenset({Right.LOOK, Right.REHEARSE, Right.SCAN, Right.OFFICE, Right.PEOPLE}) | _LEADING,
    "buyer": frozenset({Right.LOOK, Right.ORDERS}),
    "floor": frozenset({Right.LOOK, Right.SCAN}),
    "viewer": frozenset({Right.LOOK}),
    "host": frozenset({Right.HOST}),
}
"""What each role brings."""
ROLE_SAYS: dict[str, str] = {
    "analyst": "decides the rules and rehearses them; does nothing in a live world",
    "supervisor": "office acts and handset in live worlds, rehearsals, people but no analysts",
    "buyer": "the host's orders, up to the moment the floor has them; nothing of receiving",
    "floor": "the handset, in the crews named here",
    "viewer": "looks, changes nothing",
    "host": "no person: a system that tells orders and answers messages, with a key",
}
"""What each role is for."""
_ORDERS = "declare_output close_output confirm_order write_order try_order cancel_order ship_transfer pass_on announce_order open_order close_order"
_ACTS: dict[str, Right] = {
    **dict.fromkeys(_ORDERS.split(), Right.ORDERS),
    **dict.fromkeys(
        [
            "make_tasks",
            "fill_shelves",
            "drop_rest",
            "hold_task",
            "let_task_go",
            "reassign_task",
            "raise_task",
            "cancel_task",
        ],
        Right.TASKS,
    ),
    "book_receipt": Right.BOOK_BY_HAND,
    "take_surplus": Right.BOOK_BY_HAND,
    "send_surplus_back": Right.BOOK_BY_HAND,
    "finish_plate": Right.STEP_IN_OFFICE,
    "unload_in_office": Right.STEP_IN_OFFICE,
    "receive_in_office": Right.STEP_IN_OFFICE,
    "put_away_in_office": Right.STEP_IN_OFFICE,
    "inspect_in_office": Right.STEP_IN_OFFICE,
    "close_rest": Right.CLOSE_SHORT,
    "reopen_rest": Right.CLOSE_SHORT,
    "end_unloading": Right.CLOSE_SHORT,
    "undo_unloading": Right.UNDO,
    "undo_receipt": Right.UNDO,
    "undo_task": Right.UNDO,
    "set_down": Right.STEP_IN_OFFICE,
    "reserve_stock": Right.RESERVE,
    "let_go": Right.RESERVE,
    "shift_cover": Right.SHIFT_COVER,
    "tie_through": Right.SHIFT_COVER,
    "release_orders": Right.RELEASE,
    "release_lines": Right.RELEASE,
    "undo_release": Right.RELEASE,
    **dict.fromkeys(
        ["make_wave", "let_wave_go", "hold_wave", "add_to_wave", "take_out_of_wave", "cancel_wave"], Right.WAVES
    ),
    "pick_in_office": Right.STEP_IN_OFFICE,
    **dict.fromkeys(
        ["begin_carton", "pack_into", "pack_rest", "pack_as_is", "take_out", "close_carton", "reopen_carton"],
        Right.STEP_IN_OFFICE,
    ),
    "pack_short": Right.CLOSE_SHORT,
    **dict.fromkeys(
        ["stage_goods", "stack_plates", "load_goods", "take_off_truck", "ship_shipment"], Right.STEP_IN_OFFICE
    ),
    "reverse_shipment": Right.UNDO,
    "set_scale": Right.OFFICE,
    "set_till": Right.OFFICE,
    "set_carrier": Right.OFFICE,
    "book_carriage": Right.STEP_IN_OFFICE,
    "drop_carriage": Right.STEP_IN_OFFICE,
    "pass_gate": Right.PASS_GATE,
    "change_gate": Right.PASS_GATE,
    "say_to_order": Right.WORD,
    "block_bin": Right.BLOCK,
    **dict.fromkeys(["make_counts", "run_count_plan", "enter_counts", "count_again", "drop_count"], Right.COUNTS),
    "post_count": Right.POST_COUNTS,
    "adjust_stock": Right.ADJUST,
    "change_status": Right.STATUS,
    "shift_stock": Right.ADJUST,
    "set_host": Right.OFFICE,
    "repeat_message": Right.OFFICE,
    **dict.fromkeys(["print_label", "print_numbers", "print_again", "drop_print"], Right.STEP_IN_OFFICE),
    "set_printer": Right.OFFICE,
    "wait": Right.OFFICE,
}


def _kinds(union: object) -> list[str]:
    parts = get_args(union)
    return [k for part in parts for k in _kinds(part)] if parts else [str(fields(union)[-1].default)]  # type: ignore[arg-type]


OFFICE_ACTS: dict[str, Right] = {kind: _ACTS[kind] for kind in _kinds(acts.OfficeAct)}
"""The right each act of the office needs in a live world; an act nobody thought of ends here, at the start."""


def given(row: PersonRow, site: str) -> frozenset[Right]:
    """What a person is given at a site besides what the role brings."""
    return frozenset(Right(right) for at, _, right in (text.partition(" ") for text in row.given) if at == site)


def rights_at(row: PersonRow, site: str) -> frozenset[Right]:
    """Everything a person may do at a site; nothing at one that is not hers."""
    return ROLES[row.role] | given(row, site) if site in row.sites else frozenset()
