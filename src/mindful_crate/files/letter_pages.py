"""The page that tells every column and element of messages as files, found out from what the code writes and reads: each
is taken out of a sample, and what is then read says whether it was needed."""

from __future__ import annotations

import csv
import io
import xml.etree.ElementTree as ET
from collections.abc import Callable, Iterator, Sequence

from defusedxml.ElementTree import fromstring

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.world.letters import Letter
from mindful_crate.files.letters import Told, letter_text, read_told
from mindful_crate.files.texts import BadText

HEAD = """# Messages as files

Written by `python -m mindful_crate.cli schemas` from what is written and read; a test keeps it true. As JSON a message that
comes in has [this schema](message-in.schema.json) and one that goes out [this](message-out.schema.json).

*Needed*: without it the file is refused. *Read*: what it says is taken over. *Left aside*: written for the reader, not
read. Nothing is said of messages that only go out.
"""


def told(samples: Sequence[tuple[str, Letter]], ground: Ground) -> str:
    """The page, from a sample of each kind of message under what it is called."""
    parts = [HEAD]
    for called, sample in samples:
        parts.append(f"## {called}\n\n### CSV\n\n| column | | for example |\n| --- | --- | --- |")
        parts += [f"| `{name}` | {word} | {value} |" for name, word, value in _columns(sample, ground)]
        if sample.count:
            parts.append("\nUBL has no document for it.\n")
            continue
        root, rows = _elements(sample, ground)
        parts.append(f"\n### UBL: `{root}`\n\n| element | | for example |\n| --- | --- | --- |")
        parts += [f"| `{path}` | {word} | {value} |" for path, word, value in rows]
        parts.append("")
    return "\n".join(parts)


def _columns(sample: Letter, ground: Ground) -> Iterator[tuple[str, str, str]]:
    text = letter_text(sample, "csv", ground)
    rows = list(csv.DictReader(io.StringIO(text)))
    for name in rows[0]:
        out = io.StringIO()
        writer = csv.DictWriter(out, [n for n in rows[0] if n != name], extrasaction="ignore", lineterminator="\n")
        writer.writeheader()
        writer.writerows(rows)
        yield name, _word(sample, text, out.getvalue(), "csv", ground), _shown(r[name] for r in rows)


def _elements(sample: Letter, ground: Ground) -> tuple[str, list[tuple[str, str, str]]]:
    text = letter_text(sample, "ubl", ground)
    top = fromstring(text)
    found: dict[str, list[str]] = {}
    for path, leaf in _leaves(top, ""):
        attributes = "".join(f' {k}="{v}"' for k, v in leaf.attrib.items())
        found.setdefault(path, []).append(f"{leaf.text}{attributes}")
    rows = []
    for path, values in found.items():
        less = fromstring(text)
        _take_out(less, path.split("/"))
        word = _word(sample, text, ET.tostring(less, encoding="unicode"), "xml", ground)
        rows.append((path, word, _shown(iter(values))))
    return _name(top), rows


def _name(element: ET.Element) -> str:
    return element.tag.rsplit("}", 1)[-1]


def _leaves(parent: ET.Element, before: str) -> Iterator[tuple[str, ET.Element]]:
    for each in parent:
        path = f"{before}{_name(each)}"
        if len(each):
            yield from _leaves(each, path + "/")
        else:
            yield path, each


def _take_out(parent: ET.Element, path: list[str]) -> None:
    for each in [e for e in parent if _name(e) == path[0]]:
        if len(path) == 1:
            parent.remove(each)
        else:
            _take_out(each, path[1:])


def _word(sample: Letter, whole: str, less: str, ending: str, ground: Ground) -> str:
    if sample.receipt or sample.shipment:
        return ""
    read: Callable[[str], Told] = lambda text: read_told(text.encode(), f"sample.{ending}", ground, sample.site)  # noqa: E731
    try:
        return "left aside" if read(less) == read(whole) else "read"
    except BadText:
        return "needed"


def _shown(values: Iterator[str]) -> str:
    first = next((v for v in values if v), "")
    return f"`{first}`" if first else ""
