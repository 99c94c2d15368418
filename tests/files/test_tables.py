"""Tables in and out: round trips that change nothing, and every kind of bad file answered in words."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Partner
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.tables import TABLES, amend
from mindful_crate.files import sheets, tables, writing
from mindful_crate.files.cells import guarded, unguarded
from mindful_crate.files.stock_rows import StockBatches
from tests.conftest import ROOT
from tests.core import small


def written(opening: Opening, form: str, names: tuple[str, ...] = tables.NAMES) -> list[sheets.Sheet]:
    """All tables as files, read again."""
    rows = {name: (tables.columns(name), list(writing.rows_of(opening, name))) for name in names}
    if form == "xlsx":
        return tables.sheets_of("all.xlsx", writing.as_workbook(rows))
    return [s for n, (h, r) in rows.items() for s in tables.sheets_of(f"{n}.csv", writing.as_csv(h, r))]


def in_order(opening: Opening) -> Opening:
    return amend(opening, {name: list(getattr(opening, name)) for name in TABLES})[0]


@pytest.mark.parametrize("form", ["csv", "xlsx"])
def test_the_demo_goes_out_and_comes_in_the_same(ground: Ground, form: str) -> None:
    """Into an empty ground it makes the same opening; onto itself it changes nothing."""
    files = written(ground.opening, form)
    made = tables.bring(Opening(ground.opening.name), files)
    assert made.bad == [] and made.opening.hash == in_order(ground.opening).hash
    again = tables.bring(made.opening, files, whole=True)
    assert again.bad == [] and all(c.idle for c in again.changes) and again.opening == made.opening


@settings(max_examples=25, deadline=None)
@given(small.stocks(), st.lists(st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs")), min_size=1, max_size=12).map(str.strip).filter(bool), unique=True, max_size=5), st.sampled_from(["csv", "xlsx"]))  # fmt: skip
def test_anything_goes_out_and_comes_in_the_same(stock: Any, names: list[str], form: str) -> None:
    """Stock of all kinds, and names in any script: with commas, quotes, zeros in front, and such as look like formulas."""
    opening = small.floor(*stock).ground.opening
    partners = tuple(Partner(f"00{n}", name) for n, name in enumerate(names))  # type: ignore[arg-type]
    opening = in_order(replace(opening, partners=partners))
    made = tables.bring(Opening(opening.name), written(opening, form))
    assert made.bad == [] and made.opening == opening


@given(st.text("='+-@\t1a,;\"", min_size=1, max_size=8))
def test_no_cell_goes_out_as_a_formula(text: str) -> None:
    """Whatever begins like one has an apostrophe before it, which is taken off on the way in; plain numbers have none."""
    written_ = guarded(text)
    assert written_[0] not in "=+@\t" and (written_[0] != "-" or written_.strip("-").isdigit())
    assert unguarded(written_) == text
    assert (guarded("-12.5"), guarded("'s Graven"), guarded("=1+1"), guarded("'=1")) == (
        "-12.5",
        "'s Graven",
        "'=1+1",
        "''=1",
    )


def test_a_cell_far_to_the_right_is_not_passed_over(tmp_path: Path) -> None:
    """A workbook that says it is three columns wide, and is not: the row is told."""
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "partners"
    for row in (["code", "name"], ["C-1", "One"], ["C-2", "Two"]):
        sheet.append(row)
    sheet["Z3"] = "hidden"
    file = tmp_path / "partners.xlsx"
    book.save(file)
    narrow = tmp_path / "narrow.xlsx"
    with zipfile.ZipFile(file) as old, zipfile.ZipFile(narrow, "w") as new:
        for info in old.infolist():
            content = old.read(info)
            new.writestr(info, content.replace(b'<dimension ref="A1:Z3"', b'<dimension ref="A1:B3"'))
    made = tables.bring(Opening("x"), tables.sheets_of("partners.xlsx", narrow.read_bytes()))
    assert [(b.line, b.says) for b in made.bad] == [(3, "stands in a column without a name")]
    assert [p.code for p in made.opening.partners] == ["C-1"]


def test_the_published_columns_are_those_of_the_code() -> None:
    """docs/schemas/tables.md is what the types say, and speaks of every table."""
    assert (ROOT / "docs" / "schemas" / "tables.md").read_text() == tables.told()
    assert set(tables.ABOUT) == set(tables.NAMES)


BINS = "code,zone,bin_type,x_mm,y_mm,level,walk\n"


@pytest.mark.parametrize(
    ("name", "text", "line", "column", "value", "says"),
    [
        ("bins.csv", BINS + "X-1,BLK,FLOOR,1,2,0,9\nX-2,BLK,FLOOR,one,2,0,9\n", 3, "x_mm", "one", "not a whole number of at most 15 digits"),
        ("bins.csv", BINS + "X-1,BLK,CAVE,1,2,0,9\n", 2, "", "X-1", "bin type `CAVE` does not exist"),
        ("bins.csv", BINS + "X-1,BLK,FLOOR,-1,2,0,9\n", 2, "", "X-1", "off the map"),
        ("bins.csv", BINS + "X-1,BLK,FLOOR,1,2,0,9\nX-1,BLK,FLOOR,1,2,1,9\n", 3, "", "X-1", "stands twice: first in line 2"),
        ("bins.csv", BINS + "X-1,BLK,FLOOR,1,2,0,9\nX-2,RSV,RACK,1,2,0,9\n", 3, "", "X-2", "where bin `X-1` stands"),
        ("bins.csv", BINS + "X-1,BLK,FLOOR,1,2,0\n", 2, "walk", "", "is missing"),
        ("bins.csv", BINS + "X-1,BLK,FLOOR,1,2,0,9,10\n", 2, "", "10", "in a column without a name"),
        ("bins.csv", "code,place\nX-1,BLK\n", 2, "place", "BLK", "no such column; there are code, zone"),
        ("items.csv", "code,name,group,tracking\nI-1,One,G,sometimes\n", 2, "tracking", "sometimes", "none of none, lot"),
        ("items.csv", "code,name,group\nI-1,One,G\n", 2, "", "I-1", "base unit"),
        ("units.csv", "item,code,name,plural,quantity,length_mm,width_mm,height_mm,weight_kg\nNO-1,pc,p,p,1,1,1,1,1\n", 2, "item", "NO-1", "no item with this code"),
        ("units.csv", "item,code,name,plural,quantity,length_mm,width_mm,height_mm,weight_kg\nROPE-12,m,m,m,1,1,1,1,0.1\nROPE-12,coil,c,c,0,9,9,9,1\n", 2, "", "ROPE-12", "above zero"),
        ("partners.csv", "code,name\nC-1,=SUM(A1)\n", 2, "name", "=SUM(A1)", "a formula"),
        ("barcodes.csv", "code,item,unit\n4006381333930,ROPE-12,m\n", 2, "", "4006381333930", "should be 1"),
        ("barcodes.csv", "code,item,unit\nB1,ROPE-12,yard\n", 2, "", "B1", "has no unit `yard`"),
        ("orders.csv", "number,kind,site,partner,promised\nPO-9,purchase,HQ,V-100,31.03.2026\n", 2, "promised", "31.03.2026", "2026-03-31"),
        ("order_lines.csv", "order,no,item,unit,quantity\nPO-1007,1,ROPE-12,coil,0\n", 2, "", "PO-1007", "above zero"),
        ("stock.csv", "bin,item,quantity\nB-01-02-1,ROPE-12,-4\n", 2, "quantity", "-4", "above zero"),
        ("stock.csv", "bin,item,quantity,plate\nB-01-02-1,ROPE-12,4,LP-000001\n", 2, "plate", "LP-000001", "stands in `B-01-01-1`"),
        ("plates.csv", "number,plate_kind,bin,on\nLP-900000,PAL,B-01-01-1,LP-900000\n", 2, "", "LP-900000", "never in a ring"),
        ("home_bins.csv", "item,bin,least,most\nROPE-12,P-01-01-1,9,3\n", 2, "", "ROPE-12, P-01-01-1", "contradict"),
    ],
)  # fmt: skip
def test_a_bad_row_is_told_where_it_stands(
    ground: Ground, name: str, text: str, line: int, column: str, value: str, says: str
) -> None:
    """File, line, column, value and reason; and what is good in the file is all that would change."""
    found = tables.bring(ground.opening, tables.sheets_of(name, text.encode()))
    assert any(
        (b.line, b.column) == (line, column) and says in b.says and (not value or b.value == value) for b in found.bad
    ), found.bad
    assert found.bad_rows == 1
    assert sum(c.new + c.changed for c in found.changes) == found.rows - 1 - (name == "units.csv" and line == 2 and "coil" in text)  # fmt: skip


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("things.csv", b"code\n", "says no table. Name the file for what it holds: sites.csv"),
        ("bins.csv", "code\nÄ-1\n".encode("latin-1"), "not UTF-8 text (line 2)"),
        ("bins.csv", b"", "is empty"),
        ("stock.csv", b"bin,item,quantity,bin\nA,B,1,C\n", "names column `bin` twice"),
        ("bins.csv", b"code\n\0\0", "no text file"),
        ("bins.xlsx", b"PK\x03\x04 and no more", "no workbook"),
    ],
)
def test_a_file_that_cannot_be_read_says_why(name: str, content: bytes, says: str) -> None:
    """One sentence, with what to do."""
    with pytest.raises(sheets.Unreadable) as error:
        tables.bring(Opening("none"), tables.sheets_of(name, content))
    assert says in str(error.value)


def packed(**parts: bytes) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in parts.items():
            made.writestr(name.replace("_", "."), content)
    return out.getvalue()


def test_traps_in_a_workbook_are_not_opened(monkeypatch: pytest.MonkeyPatch) -> None:
    """Entities, and what unpacks to more than can be meant; neither is expanded first."""
    monkeypatch.setattr(openpyxl, "load_workbook", lambda *a, **k: pytest.fail("it was opened"))
    with pytest.raises(sheets.Unreadable, match="declares entities"):
        tables.sheets_of("x.xlsx", packed(a_xml=b'<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "aa">]><x>&a;</x>'))
    monkeypatch.setattr(sheets, "MOST_UNPACKED", 1_000_000)
    with pytest.raises(sheets.Unreadable, match="unpacks to 2 MB"):
        tables.sheets_of("x.xlsx", packed(a_bin=b"0" * 2_000_000))


def test_a_workbook_made_by_hand(ground: Ground) -> None:
    """Numbers, dates and yes/no cells are read as meant; a formula is refused; sheets named for nothing are passed over."""
    book = openpyxl.Workbook()
    sheet = book.active
    sheet.title = "Orders"
    sheet.append(["number", "kind", "site", "partner", "promised", "confirmed"])
    sheet.append([9001, "purchase", "HQ", "V-100", date(2026, 4, 1), True])
    sheet.append(["PO-9002", "purchase", "HQ", "V-100", "=TODAY()", False])
    book.create_sheet("Notes").append(["for me"])
    out = io.BytesIO()
    book.save(out)
    found = tables.bring(ground.opening, tables.sheets_of("mine.xlsx", out.getvalue()))
    assert [(b.line, b.column, b.says) for b in found.bad] == [(3, "promised", "a formula; put its value there")]
    order = next(o for o in found.opening.orders if o.number == "9001")
    assert order.confirmed and order.promised.isoformat() == "2026-04-01"


def test_a_whole_is_not_taken_without_one_of_its_parts(ground: Ground) -> None:
    """An item whose case has a bad size keeps all its units as they were, and says where the trouble is."""
    units = "item,code,name,plural,quantity,length_mm,width_mm,height_mm,weight_kg\n"
    text = units + "ROPE-12,m,m,m,1,1,1,1,0.1\nROPE-12,coil,c,c,wide,9,9,9,1\n"
    found = tables.bring(ground.opening, tables.sheets_of("units.csv", text.encode()))
    assert [(b.line, b.says) for b in found.bad] == [(2, "line 3, of the same item, will not do"), (3, "not a whole number of at most 15 digits")]  # fmt: skip
    assert found.opening == ground.opening and found.bad_rows == 2
    items = b"code,name,group\nROPE-12,Rope,Rope\n"
    both = tables.sheets_of("items.csv", items) + tables.sheets_of("units.csv", text.encode())
    assert "line 3 of `units.csv`" in tables.bring(ground.opening, both).bad[0].says


def test_ten_thousand_errors_are_counted(ground: Ground) -> None:
    """All are there for the file of reasons; the good row among them is still good."""
    rows = "".join(f"C-{n},Name {n},many\n" for n in range(10_000))
    found = tables.bring(ground.opening, tables.sheets_of("partners.csv", f"code,name,shelf_life_days\nC-X,Good,3\n{rows}".encode()))  # fmt: skip
    assert (len(found.bad), found.bad_rows, found.rows) == (10_000, 10_000, 10_001)
    assert [(c.new, c.some_new) for c in found.changes] == [(1, ("C-X",))]


@settings(max_examples=40, deadline=None)
@given(small.stocks(), st.data())
def test_a_batch_taken_by_the_column_is_what_its_rows_are_one_by_one(stock: Any, data: st.DataObject) -> None:
    """Stock over other stock, with blanks, bad cells, rows twice and rows for what is not there: whether a batch is
    taken as columns or looked at row by row, the same comes of it, said of the same lines."""
    opening = in_order(small.floor(*stock).ground.opening)
    head = tables.columns("stock")
    rows = [*writing.rows_of(opening, "stock")]
    drawn = data.draw(st.lists(st.tuples(st.sampled_from(rows), st.sampled_from(head), st.sampled_from(["", " 7 ", "0", "x", "=1", "2026-02-30", "2026-03-01", "damaged", "NO-1"])), max_size=12)) if rows else []  # fmt: skip
    changed = [[new if name == column else cell for name, cell in zip(head, row, strict=True)] for row, column, new in drawn]  # fmt: skip
    text = writing.as_csv(head, data.draw(st.permutations(rows + changed)))
    base = replace(opening, stock=opening.stock.of(opening.stock[::2]))
    whole = data.draw(st.booleans())

    def brought(size: int) -> Any:
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(tables, "BATCH", size)
            patch.setattr(StockBatches, "take", StockBatches.take if size > 1 else lambda *_: False)
            found = tables.bring(base, tables.sheets_of("stock.csv", text), whole=whole, site=opening.sites[0].code)
        return found.opening.hash, found.changes, found.bad, found.bad_rows, found.rows

    assert brought(250) == brought(3) == brought(1)


@settings(max_examples=150, deadline=None)
@given(st.binary(max_size=400) | st.text(max_size=300).map(lambda t: ("bin,item,quantity\n" + t).encode("utf-8", "surrogatepass")), st.sampled_from(["stock.csv", "bins.csv", "units.csv", "x.xlsx"]), st.booleans())  # fmt: skip
def test_any_bytes_are_read_or_refused_in_words(content: bytes, name: str, packed_: bool) -> None:
    """Whatever is brought, rows come of it, or reasons, or one sentence; and never more than there was."""
    base = in_order(small.floor(()).ground.opening)
    try:
        found = tables.bring(base, tables.sheets_of(name, b"PK\x03\x04" + content if packed_ else content))
    except sheets.Unreadable as unreadable:
        assert str(unreadable)
    else:
        assert found.bad_rows <= found.rows and (found.opening == base or not all(c.idle for c in found.changes))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("bin,item,quantity\n" + "x" * 1_100_000, "a line of more than 1,000,000 characters"),
        ("bin,item,quantity\n" + "A," + "x" * 200_000 + ",3\n", "line 2, cannot be read"),
        ("bin,item,quantity\nA,B,3\nA,\0,3\n", "no text file"),
    ],
)
def test_a_file_that_breaks_off_says_where(text: str, says: str) -> None:
    """One sentence, however far it had been read."""
    with pytest.raises(sheets.Unreadable, match=says):
        tables.bring(small.floor(()).ground.opening, tables.sheets_of("stock.csv", text.encode()))


def test_lines_alone_change_their_order_and_semicolons_are_understood(ground: Ground) -> None:
    """Parts brought without their whole replace its parts; other delimiters and a mark at the start are no hindrance."""
    text = "\ufefforder;no;item;unit;quantity\nPO-1007;1;ROPE-12;coil;400\n"
    found = tables.bring(ground.opening, tables.sheets_of("2026 order-lines.csv", text.encode()))
    assert found.bad == [] and [c.some_changed for c in found.changes] == [("PO-1007",)]
    order = next(o for o in found.opening.orders if o.number == "PO-1007")
    assert [(x.item, x.quantity) for x in order.lines] == [("ROPE-12", 400)] and order.partner == "V-100"


def test_serial_numbers_come_as_a_table_of_their_own(ground: Ground) -> None:
    """Stock is counted after them; rows that lie nowhere are told and left, the others taken; an item whose stock says otherwise
    stays as it was; what is kept by numbers from now on must bring them."""
    o = ground.opening
    head = "serial,item,bin,plate,status,arrived\n"

    def bring(**texts: str) -> tables.Brought:
        return tables.bring(o, [s for name, t in texts.items() for s in tables.sheets_of(f"{name}.csv", t.encode())])

    def there(opening: Opening, item: str = "PLOT-09", code: str = "P-04-20-1") -> int:
        return sum(r.quantity for r in opening.stock if (r.bin, r.item) == (code, item))

    found = bring(
        serials=head + "N-1,PLOT-09,P-04-20-1,,,2026-03-01\nN-2,PLOT-09,NO-BIN,,,\nN-3,ROPE-12,P-04-20-1,,,\n"
    )
    assert there(found.opening) == there(o) + 1 and found.opening.serials.find("PLOT-09", "N-1") is not None
    assert [(b.line, b.says) for b in found.bad] == [
        (3, "bin `NO-BIN` does not exist"),
        (4, "item `ROPE-12` is not kept by serial numbers"),
    ]
    assert [(c.table, c.new) for c in found.changes if not c.idle] == [("serials", 1)]
    stock = "bin,item,quantity,status,arrived\nP-04-20-1,PLOT-09,3,available,2026-03-02\nP-04-20-1,SHK-08,5,available,2026-03-02\n"
    odd = bring(stock=stock, serials=head + "N-4,LRAFT-4,R-08-20-2,LP-000906,available,2026-01-30\n")
    assert odd.opening is o and any("bring the table `serials`" in b.says for b in odd.bad)
    good = bring(
        stock=stock, serials=head + "".join(f"N-{n},PLOT-09,P-04-20-1,,available,2026-03-02\n" for n in range(3))
    )
    assert good.bad == [] and there(good.opening) == there(o) + 3 and there(good.opening, "SHK-08") == 5
    items = "code,name,group,tracking\nSHK-08,Shackle 8 mm,Fittings,serial\n"
    kept = bring(items=items)
    assert not kept.changes or all(c.idle for c in kept.changes)
    assert any("`SHK-08` lie in" in b.says and b.line == 2 for b in kept.bad)
