"""An opening state as bytes that are ready to use: no row is looked at when it is read again.

The catalogue is JSON; the columns of the stock and the sums of the bins follow as they lie in memory. What is
written is read back to an equal opening with an equal hash.
"""

from __future__ import annotations

import json
import struct
from array import array
from collections.abc import Iterator
from dataclasses import replace

from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.placing.loads import put_sums, sums_of
from mindful_crate.core.plain import Misfit, from_plain

MAGIC = b"crate-opening-2\n"
_LENGTHS = struct.Struct("<QQQ")


def pieces(ground: Ground, catalogue: bytes = b"") -> Iterator[bytes]:
    """A ground as bytes, piece by piece, so that none has to be as long as all. ``catalogue``: its canonical form, for
    whoever has it already."""
    catalogue = catalogue or ground.opening.catalogue()
    table = json.dumps(ground.stock.head(), ensure_ascii=False).encode()
    head = b"".join((b'{"catalogue":', catalogue, b',"table":', table, b"}"))
    sums = sums_of(ground)
    body = sum(map(len, ground.stock.pieces()))
    yield MAGIC + _LENGTHS.pack(len(head), body, sum(len(s) * s.itemsize for s in sums))
    yield head
    yield from ground.stock.pieces()
    yield from (column.tobytes() for column in sums)


def keep(ground: Ground) -> bytes:
    """A ground as bytes."""
    return b"".join(pieces(ground))


def read(content: bytes, hash_: str = "") -> Ground:
    """The ground that was kept; Misfit when the bytes are none."""
    if not content.startswith(MAGIC):
        raise Misfit("", "these bytes are no opening state of this version")
    view = memoryview(content)
    at = len(MAGIC) + _LENGTHS.size
    head_length, body_length, sums_length = _LENGTHS.unpack(view[len(MAGIC) : at])
    head = json.loads(bytes(view[at : at + head_length]))
    table = StockTable.from_snapshot(head["table"], view[at + head_length : at + head_length + body_length])
    ground = Ground(replace(from_plain(Opening, head["catalogue"]), stock=table), hash_)
    columns = view[at + head_length + body_length : at + head_length + body_length + sums_length]
    size = sums_length // 3
    sums = [array("q") for _ in range(3)]
    for n, column in enumerate(sums):
        column.frombytes(columns[n * size : (n + 1) * size])
    put_sums(ground, (sums[0], sums[1], sums[2]))
    return ground
