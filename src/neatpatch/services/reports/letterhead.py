"""The letterhead: name, address, paper, and a logo of one's own."""

from __future__ import annotations

import base64
import io
import sqlite3
import warnings
import zlib

from PIL import Image, UnidentifiedImageError

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.reports.visit_report import Letterhead
from neatpatch.images.raster import BROKEN
from neatpatch.store.settings import get_record, get_setting, put_record, put_setting

LETTERHEAD, _LOGO = "letterhead", "letterhead_logo"
MOST_LOGO_BYTES = 1_000_000
_MOST_PIXELS = 16_000_000
_TOO_MANY_PIXELS = "The logo has more than 16 million pixels. Make it smaller."
_BOX_PX = (900, 300)
"""Printed 45 mm wide at most: 500 dots an inch."""


def kept_letterhead(connection: sqlite3.Connection) -> tuple[Letterhead, bytes | None]:
    """The letterhead, and its logo as a PNG."""
    logo = get_setting(connection, _LOGO)
    return get_record(connection, LETTERHEAD, Letterhead), base64.b64decode(logo) if logo else None


def keep_letterhead(connection: sqlite3.Connection, letterhead: Letterhead) -> None:
    """Set the texts and the paper."""
    put_record(connection, LETTERHEAD, letterhead)


def keep_logo(connection: sqlite3.Connection, logo: bytes | None) -> None:
    """Set the logo, a PNG of `printable_logo`; None takes it off."""
    put_setting(connection, _LOGO, base64.b64encode(logo).decode() if logo else "")


def printable_logo(data: bytes) -> bytes:
    """A logo as it is printed, on white; `BadArgumentError` where it is no PNG or JPEG picture."""
    if len(data) > MOST_LOGO_BYTES:
        raise BadArgumentError("The logo is larger than 1 MB. Choose a smaller file.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
                if picture.width * picture.height > _MOST_PIXELS:
                    raise BadArgumentError(_TOO_MANY_PIXELS)
                shown = picture.convert("RGBA")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise BadArgumentError(_TOO_MANY_PIXELS) from error
    except (*BROKEN, UnidentifiedImageError, MemoryError, zlib.error) as error:
        raise BadArgumentError("The logo cannot be read. Choose a PNG or JPEG picture.") from error
    shown.thumbnail(_BOX_PX)
    white = Image.new("RGBA", shown.size, "white")
    white.alpha_composite(shown)
    out = io.BytesIO()
    white.convert("RGB").save(out, "PNG")
    return out.getvalue()
