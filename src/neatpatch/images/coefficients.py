"""The quantised coefficients of a JPEG file, read and written without loss.

`jpeglib` is asked by its plain calls, into arrays of our own: its objects decode a file once more
to describe it, and copy all coefficients on the way back. It is native code on foreign bytes, so it
is loaded only where a picture is written.
"""

from __future__ import annotations

import ctypes
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from neatpatch.images.jpeg_segments import Segments
from neatpatch.images.raster import damaged

_BUILD = "turbo210"
"""The quickest of the builds that the library brings along; coefficients are the same in all."""
_GREY, _RGB, _LUMA = 1, 2, 3
"""What components are, as the library numbers it."""
_MOST_TABLES, _BLOCK = 4, 8


@dataclass(frozen=True, kw_only=True)
class Coefficients:
    """One or three ``planes`` of blocks (rows, columns, 8, 8), in the order of frequencies across
    and down, that may be changed in place; ``tables`` (4, 8, 8), and each plane's ``table_of``.
    """

    planes: tuple[NDArray[np.int16], ...]
    tables: NDArray[np.uint16]
    table_of: NDArray[np.int16]


def read_coefficients(source: Path, parts: Segments) -> Coefficients:
    """Read a file of these segments. Raises `UnusableFrameError` where it is damaged.

    What is wrong with its tables would end the process in the plain call: they are tried on a small
    file first.
    """
    _try(parts.trial)
    coded = Coefficients(
        planes=tuple(np.empty(_blocks(parts, i), np.int16) for i in range(len(parts.sampling))),
        tables=np.zeros((_MOST_TABLES, _BLOCK, _BLOCK), np.uint16),
        table_of=np.full(_MOST_TABLES, -1, np.int16),
    )
    library = _library()
    done = library.get().read_jpeg_dct(  # its own wrapper prints what failed
        library.cstr(str(source)),
        *_four(coded.planes),
        _at(coded.tables),
        _at(coded.table_of),
    )
    if not done:
        raise damaged("jpeg")
    return coded


def write_coefficients(target: Path, coded: Coefficients, parts: Segments) -> None:
    """Write a file with its picture alone, without notes. Raises `OSError`, for a full disk too."""
    count = len(coded.planes)
    dims = [n for plane in coded.planes for n in plane.shape[:2]]
    factors = [n for across, down in parts.sampling for n in (down, across)]
    _library().write_jpeg_dct(
        None,
        str(target),
        *_four(coded.planes),
        image_dims=(ctypes.c_int * 2)(*parts.shape),
        block_dims=(ctypes.c_int * 6)(*dims),
        in_color_space=_GREY if count == 1 else _RGB if parts.rgb else _LUMA,
        in_components=count,
        samp_factor=(ctypes.c_int * 6)(*factors),
        qt=_at(coded.tables),
        quality=-1,
        quant_tbl_no=_at(coded.table_of),
        num_markers=0,
        marker_types=None,
        marker_lengths=None,
        markers=None,
        flags=[],
    )


def _try(trial: bytes) -> None:
    _library()
    import jpeglib

    with tempfile.NamedTemporaryFile(suffix=".jpg") as small:
        small.write(trial)
        small.flush()
        try:
            jpeglib.read_dct(small.name)
        except (OSError, RuntimeError, ValueError) as error:
            raise damaged("jpeg") from error


def _library() -> Any:
    import jpeglib
    from jpeglib._bind import CJpegLib

    if CJpegLib.get_version() != _BUILD:
        jpeglib.version.set(_BUILD)
    return CJpegLib


def _blocks(parts: Segments, index: int) -> tuple[int, int, int, int]:
    """A component's blocks: of a coarser one as many as cover its share of the picture."""
    (height, width), (across, down) = parts.shape, parts.coarser(index)
    return -(-height // (_BLOCK * down)), -(-width // (_BLOCK * across)), _BLOCK, _BLOCK


def _four(planes: Sequence[NDArray[np.int16]]) -> list[Any]:
    """The planes as the library takes them: of luma, two colours and black."""
    return [_at(p) for p in planes] + [None] * (4 - len(planes))


def _at(array: NDArray[Any]) -> Any:
    return array.ctypes.data_as(ctypes.c_void_p)
