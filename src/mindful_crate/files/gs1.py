"""Split GS1 element strings at the edge, with biip; the core gives the elements their meaning."""

from __future__ import annotations

from biip import ParseError
from biip.gs1_element_strings import GS1ElementString
from biip.gs1_messages import GS1Message


def split(text: str) -> tuple[tuple[str, str], ...]:
    """(application identifier, value) pairs of a GS1 element string, or () when the text is none.

    Taken: a symbology identifier of a GS1 symbol in front, bracketed identifiers, or a separator character
    inside. A bare number is left alone: it may be an order or a count.
    """
    text = text.strip()
    marked = text[:3] in ("]C1", "]d2", "]Q3", "]e0")
    body = text[3:] if marked else text
    try:
        if body.startswith("("):
            message = GS1Message.parse_hri(body)
        elif marked or "\x1d" in body or _looks_like(body):
            message = GS1Message.parse(body)
        else:
            return ()
    except ParseError:
        return ()
    return tuple((s.ai.ai, s.value) for s in message.element_strings if isinstance(s, GS1ElementString))


def _looks_like(body: str) -> bool:
    """A GTIN element and more behind it: 01, 14 digits, and a further element."""
    return len(body) > 18 and body[:16].isdigit() and body[:2] in ("01", "02")
