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
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.common.errors import UnusableFrameError

_BUILD = "turbo210"
"""The quickest of the builds that the library brings along; coefficients are the same in all."""
_SPACES = {"grey": 1, "rgb": 2, "luma": 3}
_MOST_TABLES, _BLOCK = 4, 8
_DAMAGED = "the JPEG file is damaged or cut short."

Coding = Literal["rgb", "luma"]
"""What three components are: colours, or a luma and two differences."""


@dataclass(frozen=True, kw_only=True)
class Coefficients:
    """One or three ``planes`` of blocks (rows, columns, 8, 8), in the order of frequencies across
    and down, that may be changed in place; ``tables`` (4, 8, 8), and each plane's ``table_of``.
    """

    shape: tuple[int, int]
    sampling: tuple[tuple[int, int], ...]
    planes: tuple[NDArray[np.int16], ...]
    tables: NDArray[np.uint16]
    table_of: NDArray[np.int16]


def read_coefficients(
    source: Path, shape: tuple[int, int], sampling: tuple[tuple[int, int], ...], trial: bytes
) -> Coefficients:
    """Read a file of this height and width, whose components are sampled so, across and down.

    ``trial``: a small file with the same tables: what is wrong with those would end the process in
    the plain call. Raises `UnusableFrameError` where it is damaged.
    """
    _try(trial)
    coded = Coefficients(
        shape=shape,
        sampling=sampling,
        planes=tuple(np.empty(blocks, np.int16) for blocks in _blocks(shape, sampling)),
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
        raise UnusableFrameError(_DAMAGED)
    return coded


def write_coefficients(target: Path, coded: Coefficients, coding: Coding) -> None:
    """Write a file with its picture alone, without notes. Raises `OSError`, for a full disk too."""
    count = len(coded.planes)
    dims = [n for plane in coded.planes for n in plane.shape[:2]]
    factors = [n for across, down in coded.sampling for n in (down, across)]
    _library().write_jpeg_dct(
        None,
        str(target),
        *_four(coded.planes),
        image_dims=(ctypes.c_int * 2)(*coded.shape),
        block_dims=(ctypes.c_int * 6)(*dims),
        in_color_space=_SPACES["grey" if count == 1 else coding],
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
            raise UnusableFrameError(_DAMAGED) from error


def _library() -> Any:
    import jpeglib
    from jpeglib._bind import CJpegLib

    if CJpegLib.get_version() != _BUILD:
        jpeglib.version.set(_BUILD)
    return CJpegLib


def _blocks(
    shape: tuple[int, int], sampling: Sequence[tuple[int, int]]
) -> list[tuple[int, int, int, int]]:
    """Each component's blocks: of a coarser one as many as cover its share of the picture."""
    wide, high = (max(s[axis] for s in sampling) for axis in (0, 1))
    return [
        (-(-shape[0] * down // (high * _BLOCK)), -(-shape[1] * across // (wide * _BLOCK)), 8, 8)
        for across, down in sampling
    ]


def _four(planes: Sequence[NDArray[np.int16]]) -> list[Any]:
    """The planes as the library takes them: of luma, two colours and black."""
    return [_at(p) for p in planes] + [None] * (4 - len(planes))


def _at(array: NDArray[Any]) -> Any:
    return array.ctypes.data_as(ctypes.c_void_p)
