"""Pictures of the demo's items: our own drawings, made when the demo is loaded."""

from __future__ import annotations

import re
from io import BytesIO

from PIL import Image, ImageDraw

from mindful_crate.core.catalog.goods import Item

SIDE = 480
PAPER, INK, SHADE = "#FFFEFB", "#20302F", "#DDD8CC"
PAINTS = {"red": "#A3312A", "blue": "#4A5A86", "black": "#222222", "white": "#F7F5F0", "green": "#4F7A2E"}


def drawing(item: Item) -> bytes | None:
    """The picture of an item as PNG; None: nobody has drawn it."""
    draws = {"Rope": _rope, "Paint": _tin, "Shackles": _shackle, "Electronics": _screen}.get(item.group)
    if draws is None:
        return None
    picture = Image.new("RGB", (SIDE, SIDE), PAPER)
    draws(ImageDraw.Draw(picture), item, _size(item.name))
    held = BytesIO()
    picture.save(held, "PNG")
    return held.getvalue()


def _size(name: str) -> int:
    found = re.search(r"(\d+)", name)
    return int(found[1]) if found else 10


def _rope(pen: ImageDraw.ImageDraw, item: Item, size: int) -> None:
    """A coil from above: a thicker rope has fewer turns."""
    wide = 6 + size
    colour = "#C9A25A" if item.code.startswith("ROPE") else "#1E5B52"
    for n, radius in enumerate(range(200, 50, -wide)):
        pen.ellipse(
            (240 - radius, 240 - radius, 240 + radius, 240 + radius), outline=colour if n % 2 else INK, width=wide - 3
        )
    pen.line((240, 440, 430, 440), fill=colour, width=wide)


def _tin(pen: ImageDraw.ImageDraw, item: Item, size: int) -> None:
    """A tin with its lid and a band in the colour of the paint."""
    colour = next((c for word, c in PAINTS.items() if word in item.name.lower()), "#B67A12")
    pen.rectangle((110, 130, 370, 420), fill=SHADE, outline=INK, width=6)
    pen.ellipse((110, 90, 370, 170), fill=PAPER, outline=INK, width=6)
    pen.rectangle((113, 220, 367, 360), fill=colour)
    pen.arc((90, 40, 390, 240), 180, 360, fill=INK, width=6)


def _shackle(pen: ImageDraw.ImageDraw, item: Item, size: int) -> None:
    """A bow with its pin: larger for larger ones."""
    reach = 90 + size * 5
    pen.arc((240 - reach, 240 - reach, 240 + reach, 240 + reach), 130, 410, fill="#5C6B69", width=20 + size)
    low = 240 + int(reach * 0.8)
    pen.rectangle((240 - reach, low - 12, 240 + reach, low + 12), fill=INK)
    pen.ellipse((225 + reach, low - 26, 277 + reach, low + 26), fill=INK)


def _screen(pen: ImageDraw.ImageDraw, item: Item, size: int) -> None:
    """A box with a screen, wider for a larger one, and a chart on it."""
    wide = 120 + min(size, 16) * 6
    pen.rounded_rectangle((240 - wide, 120, 240 + wide, 360), 18, fill=INK)
    pen.rectangle((256 - wide, 140, 190 + wide, 340), fill="#8FB5B0")
    pen.polygon(
        [(256 - wide, 340), (256 - wide, 260), (240, 220), (190 + wide, 300), (190 + wide, 340)], fill="#C9A25A"
    )
    for n in range(3):
        pen.ellipse((200 + wide, 160 + n * 60, 226 + wide, 186 + n * 60), fill="#A9512B")
