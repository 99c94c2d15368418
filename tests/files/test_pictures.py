"""Pictures: taken anew and small, bounded before they are opened, refused in words."""

from __future__ import annotations

import struct
import zlib
from io import BytesIO

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from mindful_crate.core.problem import Refusal
from mindful_crate.files.pictures import MOST_BYTES, taken


def picture(kind: str, size: tuple[int, int] = (900, 300), mode: str = "RGB", **given: object) -> bytes:
    """A picture of one colour, as a file."""
    held = BytesIO()
    Image.new(mode, size, {"RGBA": (200, 0, 0, 0), "P": 3}.get(mode, "red")).save(held, kind, **given)  # type: ignore[arg-type]
    return held.getvalue()


def seen(content: bytes) -> Image.Image:
    """What is kept, opened."""
    return Image.open(BytesIO(content))


@pytest.mark.parametrize(
    ("kind", "mode"), [("JPEG", "RGB"), ("PNG", "RGB"), ("PNG", "P"), ("WEBP", "RGB"), ("GIF", "P"), ("BMP", "RGB")]
)
def test_it_is_made_anew(kind: str, mode: str) -> None:
    """WebP of at most 640 pixels a side, its shape kept, nothing of the file but what is seen."""
    made = taken(picture(kind, mode=mode))
    assert (made.width, made.height) == (640, 213)
    found = seen(made.content)
    assert found.format == "WEBP" and found.size == (640, 213) and not found.getexif()


def test_holes_are_white_and_a_turned_photo_stands_upright() -> None:
    """What is clear becomes white; a phone's photo with its turn in EXIF is turned, and says no more where it was taken."""
    clear = seen(taken(picture("PNG", mode="RGBA")).content).convert("RGB").getpixel((5, 5))
    assert isinstance(clear, tuple) and min(clear) > 250
    exif = Image.Exif()
    exif[0x0112], exif[0x010E] = 6, "the yard of somebody"
    turned = taken(picture("JPEG", exif=exif))
    assert (turned.width, turned.height) == (213, 640)
    assert b"the yard of somebody" not in turned.content


def bomb(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says it has so many pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(
    ("data", "code"),
    [
        (b"", "no_picture"),
        (b"%PDF-1.7 not a picture at all", "no_picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'><script>1</script></svg>", "no_picture"),
        (picture("TIFF"), "no_picture"),
        (picture("PNG")[:60], "no_picture"),
        (picture("JPEG")[:200], "no_picture"),
        (bomb(50_000, 50_000), "picture_too_large"),
        (bomb(2_000_000_000, 2), "picture_too_large"),
        (b"\xff" * (MOST_BYTES + 1), "picture_too_large"),
    ],
    ids=(
        "nothing",
        "a document",
        "a drawing with a script",
        "another format",
        "cut PNG",
        "cut JPEG",
        "a bomb",
        "a huge bomb",
        "40 MB",
    ),
)
def test_what_is_no_picture_or_too_much_is_refused(data: bytes, code: str) -> None:
    """In a sentence, whatever is wrong with it."""
    with pytest.raises(Refusal) as told:
        taken(data)
    assert told.value.problem.code == code
    assert "picture" in told.value.problem.says


WHOLE = picture("PNG", (40, 40))


@given(at=st.integers(0, len(WHOLE) - 1), byte=st.integers(0, 255), cut=st.integers(0, len(WHOLE)))
@settings(max_examples=80)
def test_a_broken_file_is_a_picture_or_is_refused(at: int, byte: int, cut: int) -> None:
    """One byte changed, the end cut off: never another error."""
    broken = (WHOLE[:at] + bytes([byte]) + WHOLE[at + 1 :])[: max(cut, 20)]
    try:
        assert taken(broken).width <= 640
    except Refusal as refused:
        assert refused.problem.code in ("no_picture", "picture_too_large")
