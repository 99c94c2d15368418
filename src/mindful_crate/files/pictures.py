"""Pictures as they are taken: bounded before anything is decoded, and made anew, so that nothing of a file is kept but what is seen.

Pillow decodes and writes them."""

from __future__ import annotations

import hashlib
import warnings
from dataclasses import dataclass
from io import BytesIO

from PIL import Image, ImageOps, UnidentifiedImageError

from mindful_crate.core.problem import Refusal

MOST_BYTES = 12_000_000
MOST_PIXELS = 50_000_000
LARGEST_SIDE = 640
TOO_MANY = f"That picture has more than the {MOST_PIXELS // 1_000_000} million pixels that are opened at most."
FORMATS = ("JPEG", "PNG", "WEBP", "GIF", "BMP")


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture as it is kept: WebP, no side longer than 640 pixels."""

    content: bytes
    width: int
    height: int

    @property
    def hash(self) -> str:
        """The first 16 hex digits of SHA-256 over its content."""
        return hashlib.sha256(self.content).hexdigest()[:16]


def taken(data: bytes) -> Picture:
    """A picture made of a file; :class:`Refusal` when it is too large, or none."""
    if len(data) > MOST_BYTES:
        raise Refusal(
            "picture_too_large",
            f"That file has {len(data) / 1e6:,.1f} MB; a picture may have {MOST_BYTES // 1_000_000} MB at most.",
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            with Image.open(BytesIO(data), formats=FORMATS) as opened:
                wide, high = opened.size
                if wide * high > MOST_PIXELS:
                    raise Refusal("picture_too_large", TOO_MANY)
                opened.draft("RGB", (LARGEST_SIDE * 2, LARGEST_SIDE * 2))
                upright = ImageOps.exif_transpose(opened)
                upright.thumbnail((LARGEST_SIDE, LARGEST_SIDE))
                seen = Image.new("RGB", upright.size, "white")
                with_holes = upright.convert("RGBA")
                seen.paste(with_holes, mask=with_holes.getchannel("A"))
    except Refusal:
        raise
    except Image.DecompressionBombError as error:
        raise Refusal("picture_too_large", TOO_MANY) from error
    except (
        UnidentifiedImageError,
        OSError,
        ValueError,
        SyntaxError,
        EOFError,
        ArithmeticError,
    ) as error:
        says = "That is no picture, or a broken one. Taken are JPEG, PNG, WebP, GIF and BMP."
        raise Refusal("no_picture", says) from error
    held = BytesIO()
    seen.save(held, "WEBP", quality=80, method=4)
    return Picture(held.getvalue(), *seen.size)
