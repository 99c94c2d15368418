"""What is scanned on the floor and done in the office instead: it needs a reason where the floor must scan."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, FlowPurpose
from mindful_crate.core.rulebook.words.scanner import HOW_ASKED
from mindful_crate.core.work.stamp import Stamp

LONGEST = 120
"""Letters of a reason."""


def must_scan(rulebook: Rulebook, site: SiteCode, purpose: FlowPurpose) -> list[str]:
    """What flows of a purpose on the site's menus demand as a scan, in words; empty: nothing."""
    flows = rulebook.shown_flows(site, purpose)
    # where it is put away in one, that is another step; what nobody could scan is asked of nobody
    other = {*HOW_ASKED, *((Asks.BIN,) if purpose is FlowPurpose.RECEIVE else ())}
    asked = (p.asks.says.lower() for f in flows for p in f.prompts if p.check is Check.SCAN and p.asks not in other)
    return list(dict.fromkeys(asked))


def check_why(rulebook: Rulebook, site: SiteCode, purpose: FlowPurpose, why: str) -> None:
    """Refuse what is done without a reason though the floor would have to scan."""
    scanned = must_scan(rulebook, site, purpose)
    if len(why.strip()) > LONGEST:
        raise Refusal("no_reason", f"Give the reason in at most {LONGEST} characters.", "why")
    if scanned and len(why.strip()) < 3:
        says = f"On the floor {' and '.join(scanned)} must be scanned. Say in a few words why it is done in the office."
        raise Refusal("no_reason", says, "why")


def of_every_crew(rulebook: Rulebook, stamp: Stamp) -> Stamp:
    """The stamp of somebody who does in the office what any crew does on the floor."""
    return evolve(stamp, crews=tuple(c.id for c in rulebook.crews))
