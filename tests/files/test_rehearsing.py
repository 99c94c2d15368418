"""`./crate rehearse` with whatever file a person could give it: 0, 1 or 2, and a sentence."""

from __future__ import annotations

import copy
import os
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import pytest
import yaml
from hypothesis import HealthCheck, Phase, given
from hypothesis import strategies as st
from lxml import etree

from mindful_crate import cli
from mindful_crate.demo.loader import FOLDER
from tests.properties import tried

REHEARSALS = FOLDER / "rehearsals"
ROPE = (REHEARSALS / "rope-by-the-pallet.yaml").read_text()
SCRIPTS = [yaml.safe_load(p.read_text()) for p in sorted(REHEARSALS.glob("*.yaml"))]


def said(capsys: pytest.CaptureFixture[str], *args: object) -> tuple[int, str]:
    """Exit code and what was said on standard error."""
    code = cli.main(["rehearse", *map(str, args)])
    told = capsys.readouterr().err
    assert "fault of Mindful Crate" not in told, told
    return code, told


FILES = [
    ("site unknown", ROPE.replace("site: HQ", "site: MOON"), 2, "is for site MOON; there are GL, HQ, SW"),
    ("the last year", ROPE.replace("starts: '2026", "starts: '9999"), 2, "begins in the year 9999"),
    ("the first year", ROPE.replace("starts: '2026", "starts: '0001"), 2, "begins in the year 1"),
    ("no zone", ROPE.replace("+00:00'", "'", 1), 2, "names no zone"),
    ("half a character", ROPE.replace("name: ", 'name: "\\ud800 ', 1).replace("\nsite", '"\nsite', 1), 2, "line 3, column 10: found invalid Unicode"),
    ("half a character in JSON", '{"name": "\\ud800"}', 2, "half a character"),
    ("a whole one in JSON, of two halves", '{"name": "\\ud83d\\ude00", "shape": 99}', 2, "not 99"),
    ("a key twice", ROPE + "\nname: again\n", 2, "'name' stands twice"),
    ("a bomb", "a: &a [x,x,x,x,x,x,x,x]\n" + "".join(f"b{n}: &b{n} [{','.join(['*' + ('a' if n == 0 else f'b{n - 1}')] * 9)}]\n" for n in range(12)), 2, "more than can be taken"),
    ("itself within itself", "&a [*a]", 2, "nests too deep"),
    ("deep", "[" * 200_000, 2, "nests too deep"),
    ("no date", ROPE + "\nx: 2026-13-45\n", 2, ""),
    ("nothing", "", 2, ""),
]  # fmt: skip


@pytest.mark.parametrize(("text", "code", "says"), [f[1:] for f in FILES], ids=[f[0] for f in FILES])
def test_a_file_that_cannot_be_used_is_refused_in_words(
    tmp_path: Path, capsys: Any, text: str, code: int, says: str
) -> None:
    """Exit 2 with the place, never a traceback, whose 1 a build server would read as failed."""
    file = tmp_path / "file.yaml"
    file.write_text(text)
    found, told = said(capsys, file)
    assert found == code and says in told, told


def test_places_that_are_none(tmp_path: Path, capsys: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """A folder as a file, results onto a folder or into none, a file that is no text, a rulebook without a database."""
    file = tmp_path / "file.yaml"
    file.write_text(ROPE)
    assert said(capsys, tmp_path) == (2, f"{tmp_path}: This is a folder; name a file in it.\n")
    assert "is a folder" in said(capsys, file, "--junit", tmp_path)[1]
    assert "There is no folder" in said(capsys, file, "--junit", tmp_path / "none" / "out.xml")[1]
    assert said(capsys, "a\x00b")[0] == 2
    (tmp_path / "bytes.yaml").write_bytes(b"\xff\xfe\x00")
    assert "no text in UTF-8" in said(capsys, tmp_path / "bytes.yaml")[1]
    monkeypatch.delenv("CRATE_DATABASE", raising=False)
    assert "is in the database" in said(capsys, file, "--rulebook", "in-force")[1]
    monkeypatch.setenv("CRATE_DATABASE", "host=127.0.0.1 port=1 dbname=none connect_timeout=1")
    assert said(capsys, file, "--rulebook", "draft:d-1")[0] == 2
    assert os.environ["CRATE_DATABASE"]


NASTY = st.sampled_from([None, "", "x", "HQ", "s1", "PO-1007", "é\t\x01", -1, 0, 1, 2**62, 2.5, True, [], {}, [[]], {"kind": "text"}, "2026-01-01", "0x", "\u2028"])  # fmt: skip


@given(st.data())
@tried(40, database=None, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
def test_any_change_of_a_script_runs_or_is_refused(tmp_path: Path, capsys: Any, data: st.DataObject) -> None:
    """A value somewhere replaced, taken out, doubled or moved: 0, 1 or 2."""
    plain = copy.deepcopy(data.draw(st.sampled_from(SCRIPTS)))
    for _ in range(data.draw(st.integers(1, 3))):
        where, key = data.draw(st.sampled_from(list(places(plain))))
        how = data.draw(st.sampled_from(["set", "drop", "double"]))
        if how == "set" or (how == "double" and isinstance(where, dict)):
            where[key] = copy.deepcopy(data.draw(NASTY))  # may be changed in its turn
        elif how == "drop":
            del where[key]
        else:
            where.insert(key, copy.deepcopy(where[key]))
    file = tmp_path / "changed.yaml"
    file.write_text(yaml.safe_dump(plain, allow_unicode=True))
    code, told = said(capsys, file)
    assert code in (0, 1, 2) and (code < 2 or told.strip())


def places(plain: Any) -> Any:
    """Every place of nested data: what holds it, and under which key."""
    inner = plain.items() if isinstance(plain, dict) else enumerate(plain) if isinstance(plain, list) else ()
    for key, value in list(inner):
        yield plain, key
        yield from places(value)


XSD = """<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
<xs:element name="failure" type="says"/><xs:element name="error" type="says"/>
<xs:complexType name="says"><xs:simpleContent><xs:extension base="xs:string">
 <xs:attribute name="message"/><xs:attribute name="type" use="required"/></xs:extension></xs:simpleContent></xs:complexType>
<xs:element name="property"><xs:complexType><xs:attribute name="name" use="required"/><xs:attribute name="value" use="required"/></xs:complexType></xs:element>
<xs:element name="properties"><xs:complexType><xs:sequence><xs:element ref="property" minOccurs="0" maxOccurs="unbounded"/></xs:sequence></xs:complexType></xs:element>
<xs:element name="testcase"><xs:complexType><xs:choice minOccurs="0"><xs:element ref="error"/><xs:element ref="failure"/></xs:choice>
 <xs:attribute name="name" use="required"/><xs:attribute name="classname" use="required"/><xs:attribute name="time" type="xs:decimal"/></xs:complexType></xs:element>
<xs:element name="testsuite"><xs:complexType><xs:sequence><xs:element ref="properties"/><xs:element ref="testcase" minOccurs="0" maxOccurs="unbounded"/></xs:sequence>
 <xs:attribute name="name" use="required"/><xs:attribute name="tests" type="xs:integer" use="required"/><xs:attribute name="failures" type="xs:integer" use="required"/>
 <xs:attribute name="errors" type="xs:integer" use="required"/><xs:attribute name="skipped" type="xs:integer"/><xs:attribute name="time" type="xs:decimal" use="required"/>
 <xs:attribute name="timestamp" type="xs:dateTime" use="required"/><xs:attribute name="hostname" use="required"/></xs:complexType></xs:element>
<xs:element name="testsuites"><xs:complexType><xs:sequence><xs:element ref="testsuite" minOccurs="0" maxOccurs="unbounded"/></xs:sequence>
 <xs:attribute name="name"/><xs:attribute name="tests" type="xs:integer"/><xs:attribute name="failures" type="xs:integer"/><xs:attribute name="errors" type="xs:integer"/>
 <xs:attribute name="time" type="xs:decimal"/></xs:complexType><xs:unique name="suites"><xs:selector xpath="testsuite"/><xs:field xpath="@name"/></xs:unique></xs:element>
</xs:schema>"""
"""What build servers agree on: order, counts, seconds, and suites that can be told apart."""


def test_results_are_what_build_servers_read(tmp_path: Path, capsys: Any) -> None:
    """Valid by the schema, also for one file run twice; untried steps are errors; no backticks in what is said."""
    broken = yaml.safe_load(ROPE)
    broken["steps"] = [s for s in broken["steps"] if s["id"] != "s5"]
    broken["id"] = "broken"
    file, out = tmp_path / "broken.yaml", tmp_path / "out.xml"
    file.write_text(yaml.safe_dump(broken))
    rope = REHEARSALS / "rope-by-the-pallet.yaml"
    assert said(capsys, rope, rope, file, "--junit", out)[0] == 1
    schema = etree.XMLSchema(etree.fromstring(XSD))
    assert schema.validate(etree.parse(out)), schema.error_log
    top = ElementTree.parse(out).getroot()
    assert [s.get("name") for s in top] == ["rope-by-the-pallet", "rope-by-the-pallet (2)", "broken"]
    errors = [e.get("message") or "" for e in top.iter("error")]
    assert any("made no plate" in e for e in errors) and int(top.get("errors") or 0) == len(errors)
    assert "`" not in out.read_text()
