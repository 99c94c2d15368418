"""Rehearsal results as JUnit XML, which build servers read: a suite a rehearsal, a case a step.

After the common schema (jenkins-junit, Apache Ant): properties before cases, counts on suites. Seconds are those of a whole run: steps are not timed, so
cases say none.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from datetime import datetime
from xml.etree import ElementTree as Xml

from mindful_crate.core.proving.rehearse import Checked, Result, StepResult

Timed = tuple[Result, float]
"""A result and how many seconds the run took."""


def junit(results: Iterable[Timed], at: datetime, host: str = "localhost") -> str:
    """The XML of some results that were had at a time."""
    suites = Xml.Element("testsuites", name="Mindful Crate rehearsals")
    runs: Counter[str] = Counter()
    totals: Counter[str] = Counter()
    seconds = 0.0
    for result, took in results:
        runs[result.rehearsal] += 1
        again = f" ({runs[result.rehearsal]})" if runs[result.rehearsal] > 1 else ""
        suite = Xml.SubElement(suites, "testsuite", name=result.rehearsal + again)
        properties = Xml.SubElement(suite, "properties")
        for name in ("rulebook", "opening", "engine"):
            Xml.SubElement(properties, "property", name=name, value=getattr(result, name))
        counts: Counter[str] = Counter(tests=len(result.steps) + 1, failures=0, errors=0, skipped=0)
        for step in result.steps:
            counts[_case(suite, suite.get("name") or "", step.id, *_came_of(step))] += 1
        counts[_case(suite, suite.get("name") or "", "at the end", "failures", _failed(result.at_end))] += 1
        counts.pop("", None)
        for name, count in counts.items():
            suite.set(name, str(count))
        suite.set("time", f"{took:.3f}")
        suite.set("timestamp", at.strftime("%Y-%m-%dT%H:%M:%S"))
        suite.set("hostname", host)
        totals.update(counts)
        seconds += took
    for name in ("tests", "failures", "errors"):
        suites.set(name, str(totals[name]))
    suites.set("time", f"{seconds:.3f}")
    Xml.indent(suites)
    return Xml.tostring(suites, encoding="unicode", xml_declaration=True) + "\n"


def _came_of(step: StepResult) -> tuple[str, list[str]]:
    """A step that could not be tried is an error, one that went otherwise than expected a failure."""
    if not step.fails:
        return "", []
    if step.outcome == "untried":
        return "errors", [step.says]
    return "failures", [*([step.says] if step.outcome != "done" else []), *_failed(step.checks)]


def _failed(checks: tuple[Checked, ...]) -> list[str]:
    return [f"expected {c.expectation.kind}, found: {c.found}" for c in checks if not c.holds]


def _case(suite: Xml.Element, of: str, name: str, what: str, wrong: list[str]) -> str:
    """Write a case; the count it adds to, if any."""
    case = Xml.SubElement(suite, "testcase", classname=of, name=name)
    if not wrong:
        return ""
    texts = [w.replace("`", "") for w in wrong]
    kind = "error" if what == "errors" else "failure"
    Xml.SubElement(case, kind, message=texts[0], type=kind).text = "\n".join(texts)
    return what
