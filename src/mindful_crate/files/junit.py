"""Rehearsal results as JUnit XML, which build servers read: a suite a rehearsal, a case a step."""

from __future__ import annotations

from xml.etree import ElementTree as Xml

from mindful_crate.core.proving.rehearse import Checked, Result


def junit(results: list[Result]) -> str:
    """The XML of some results."""
    suites = Xml.Element("testsuites", name="Mindful Crate rehearsals")
    for result in results:
        suite = Xml.SubElement(suites, "testsuite", name=result.rehearsal)
        failures = 0
        for step in result.steps:
            says = [step.says] if step.fails and step.outcome != "done" else []
            failures += _case(suite, result.rehearsal, step.id, [*says, *_failed(step.checks)] if step.fails else [])
        failures += _case(suite, result.rehearsal, "at the end", _failed(result.at_end))
        suite.set("tests", str(len(result.steps) + 1))
        suite.set("failures", str(failures))
        properties = Xml.SubElement(suite, "properties")
        for name in ("rulebook", "opening", "engine"):
            Xml.SubElement(properties, "property", name=name, value=getattr(result, name))
    Xml.indent(suites)
    return Xml.tostring(suites, encoding="unicode", xml_declaration=True) + "\n"


def _failed(checks: tuple[Checked, ...]) -> list[str]:
    return [f"expected {c.expectation.kind}, found: {c.found}" for c in checks if not c.holds]


def _case(suite: Xml.Element, rehearsal: str, name: str, wrong: list[str]) -> int:
    case = Xml.SubElement(suite, "testcase", classname=rehearsal, name=name)
    if wrong:
        Xml.SubElement(case, "failure", message=wrong[0]).text = "\n".join(wrong)
    return int(bool(wrong))
