"""Entries of a TIFF file's directories, changed where they lie or written anew (TIFF 6.0, 2)."""

from __future__ import annotations

import struct
from collections.abc import Collection, Sequence
from typing import Any

from neatpatch.core.common.errors import UnusableFrameError

_ENTRY = 12
_BYTE = 1


def with_entry(data: bytearray, code: int, value: bytes, drop: Collection[int] = ()) -> None:
    """Give a classic TIFF's first directory an entry of bytes, in place of one of that code.

    The directory is written again at the file's end; everything else stays where it lies. ``drop``:
    codes that are left out.
    """
    order = "<" if data[:2] == b"II" else ">"
    (start,) = struct.unpack_from(order + "I", data, 4)
    (count,) = struct.unpack_from(order + "H", data, start)
    end = start + 2 + count * _ENTRY
    rows = [bytes(data[at : at + _ENTRY]) for at in range(start + 2, end, _ENTRY)]
    gone = {code, *drop}
    kept = {c: row for row in rows if (c := struct.unpack_from(order + "H", row)[0]) not in gone}
    kept[code] = struct.pack(order + "HHII", code, _BYTE, len(value), _appended(data, value))
    following = bytes(data[end : end + 4])
    table = b"".join(row for _, row in sorted(kept.items()))
    where = _appended(data, struct.pack(order + "H", len(kept)) + table + following)
    struct.pack_into(order + "I", data, 4, where)


def _appended(data: bytearray, more: bytes) -> int:
    """Where bytes lie that are put at the file's end, on an even place."""
    data += b"\0" * (len(data) % 2)
    where = len(data)
    data += more
    return where


def set_numbers(data: bytearray, tif: Any, tag: Any, values: Sequence[int]) -> None:
    """Overwrite a tag's whole numbers where they lie. Raises `UnusableFrameError`."""
    code = {3: "H", 4: "I"}.get(int(tag.dtype))
    if code is None or len(values) != tag.count or (code == "H" and max(values) > 0xFFFF):
        raise UnusableFrameError("its TIFF layout cannot be kept. Export it uncompressed.")
    struct.pack_into(f"{tif.byteorder}{len(values)}{code}", data, tag.valueoffset, *values)
