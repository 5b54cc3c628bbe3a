"""Pictures read in their own depth, and written back with nothing else in the file changed."""

from __future__ import annotations

import struct
import zlib
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import tifffile
from numpy.typing import NDArray
from PIL import Image, PngImagePlugin

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.patching.restoring import PatchedWindow
from neatpatch.images.pictures import read_facts, read_glance, read_picture
from neatpatch.images.stored import Picture
from neatpatch.images.writeback import with_windows, write_patched
from tests import dusty_pictures as dusty

LEFT, TOP, SIDE = 203, 101, 40


def content(levels: int = 256) -> NDArray[Any]:
    """A smooth colour picture of odd size."""
    y, x = np.mgrid[:405, :611].astype(np.float32)
    planes = [0.3 + 0.3 * np.sin(x / 61 + k) * np.cos(y / 47) for k in range(3)]
    tones = np.stack(planes, axis=2) * (levels - 1)
    kind: Any = np.uint8 if levels == 256 else np.uint16
    return np.asarray(np.clip(tones, 0, levels - 1), kind)


def brighter(picture: Picture) -> list[PatchedWindow]:
    """A window some steps brighter."""
    part: NDArray[Any] = picture.tones[TOP : TOP + SIDE, LEFT : LEFT + SIDE]
    step = 12 if part.dtype == np.uint8 else 12 * 257
    return [PatchedWindow(LEFT, TOP, (part + step).astype(part.dtype))]


def jpeg(path: Path, **how: Any) -> Path:
    exif = Image.Exif()
    exif[271] = "Fennick"
    Image.fromarray(content()).save(
        path, "JPEG", exif=exif.tobytes(), icc_profile=b"p" * 200, comment=b"tide", **how
    )
    return path


def segments(data: bytes) -> list[bytes]:
    """The notes of a JPEG file: application and comment segments."""
    found, at = [], 2
    while data[at + 1] != 0xDA:
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        if 0xE0 <= data[at + 1] <= 0xEF or data[at + 1] == 0xFE:
            found.append(data[at:end])
        at = end
    return found


@pytest.mark.parametrize(
    "how",
    [
        {"quality": 92, "subsampling": 0},
        {"quality": 85, "subsampling": 1},
        {"quality": 90, "subsampling": 2, "progressive": True},
        {"quality": 75, "subsampling": 2, "restart_marker_rows": 4},
    ],
    ids=["4:4:4", "4:2:2", "progressive", "restarts"],
)
def test_only_touched_blocks_of_a_jpeg_change(tmp_path: Path, how: dict[str, Any]) -> None:
    source, target = jpeg(tmp_path / "a.jpg", **how), tmp_path / "b.jpg"
    source.write_bytes(source.read_bytes() + b"appended by the camera")
    picture = read_picture(source)
    write_patched(source, picture, brighter(picture), target)
    old, new = source.read_bytes(), target.read_bytes()
    assert segments(new) == segments(old)
    assert new.endswith(b"appended by the camera")
    before, after = dusty.pixels(source), dusty.pixels(target)
    assert after.shape == before.shape
    inside = after[TOP + 4 : TOP + SIDE - 4, LEFT + 4 : LEFT + SIDE - 4].astype(int)
    wanted = before[TOP + 4 : TOP + SIDE - 4, LEFT + 4 : LEFT + SIDE - 4].astype(int) + 12
    assert np.abs(inside - wanted).mean() < 2.5
    away = np.ones(before.shape[:2], bool)
    away[TOP - 18 : TOP + SIDE + 18, LEFT - 18 : LEFT + SIDE + 18] = False
    assert np.array_equal(before[away], after[away])


def test_a_jpeg_of_which_nothing_is_patched_decodes_to_the_same(tmp_path: Path) -> None:
    source, target = jpeg(tmp_path / "a.jpg", quality=88), tmp_path / "b.jpg"
    write_patched(source, read_picture(source), [], target)
    assert np.array_equal(dusty.pixels(source), dusty.pixels(target))


def test_a_grey_jpeg_is_patched_too(tmp_path: Path) -> None:
    source, target = tmp_path / "a.jpg", tmp_path / "b.jpg"
    Image.fromarray(content()[..., 1]).save(source, quality=95)
    picture = read_picture(source)
    write_patched(source, picture, brighter(picture), target)
    change = dusty.pixels(target).astype(int) - dusty.pixels(source)
    assert change[TOP + 8 : TOP + 32, LEFT + 8 : LEFT + 32].mean() == pytest.approx(12, abs=1)


def png(path: Path, tones: NDArray[Any]) -> Path:
    """A PNG of any depth with notes before and after its picture."""
    order = [2, 1, 0, 3][: tones.shape[2]] if tones.ndim == 3 else None
    done, data = cv2.imencode(".png", tones[..., order] if order else tones)
    assert done
    raw = data.tobytes()

    def chunk(name: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
        )

    end = raw.rindex(b"IEND") - 4
    noted = (
        raw[:33] + chunk(b"tEXt", b"Title\0Tide chart") + chunk(b"gAMA", struct.pack(">I", 45455))
    )
    path.write_bytes(noted + raw[33:end] + chunk(b"tEXt", b"Late\0note") + raw[end:])
    return path


def alpha(levels: int) -> NDArray[Any]:
    tones = content(levels)
    return np.concatenate([tones, tones[..., :1]], axis=2)


@pytest.mark.parametrize("levels", [256, 65536])
@pytest.mark.parametrize("shape", ["colour", "alpha", "grey"])
def test_a_png_keeps_its_depth_and_notes(tmp_path: Path, levels: int, shape: str) -> None:
    tones = {"colour": content, "alpha": alpha}.get(shape, lambda n: content(n)[..., 0])(levels)
    source, target = png(tmp_path / "a.png", tones), tmp_path / "b.png"
    picture = read_picture(source)
    assert np.array_equal(picture.whole, tones)
    windows = brighter(picture)
    write_patched(source, picture, windows, target)
    again = read_picture(target)
    assert again.whole.dtype == tones.dtype
    assert np.array_equal(again.whole, with_windows(picture.whole, windows))
    with Image.open(target) as image:
        assert isinstance(image, PngImagePlugin.PngImageFile)
        image.load()
        assert image.text == {"Title": "Tide chart", "Late": "note"}


@pytest.mark.parametrize("levels", [256, 65536])
@pytest.mark.parametrize("how", ["plain", "deflate", "tiled", "lzw", "big-endian"])
def test_a_tiff_keeps_its_depth_and_tags(tmp_path: Path, levels: int, how: str) -> None:
    source, target = tmp_path / "a.tif", tmp_path / "b.tif"
    tones = content(levels)
    if how == "lzw":
        cv2.imwrite(str(source), tones[..., ::-1], [cv2.IMWRITE_TIFF_COMPRESSION, 5])
    else:
        tifffile.imwrite(
            source,
            tones,
            photometric="rgb",
            byteorder=">" if how == "big-endian" else "<",
            compression="zlib" if how in ("deflate", "tiled") else None,
            tile=(128, 160) if how == "tiled" else None,
            rowsperstrip=None if how == "tiled" else 37,
            description="tide chart",
            metadata=None,
        )
    picture = read_picture(source)
    assert np.array_equal(picture.whole, tones)
    windows = brighter(picture)
    write_patched(source, picture, windows, target)
    assert np.array_equal(read_picture(target).whole, with_windows(tones, windows))
    with tifffile.TiffFile(target) as tif:
        page: Any = tif.pages.first
        assert page.bitspersample == (8 if levels == 256 else 16)
        assert how == "lzw" or page.description == "tide chart"


def test_an_uncompressed_dng_is_patched_on_its_mosaic(tmp_path: Path, dusty_dng: Path) -> None:
    picture, target = read_picture(dusty_dng), tmp_path / "b.dng"
    assert picture.mosaic
    assert picture.facts.f_number == 16.0
    windows = brighter(picture)
    write_patched(dusty_dng, picture, windows, target)
    again = read_picture(target)
    assert np.array_equal(again.whole, with_windows(picture.whole, windows))
    old, new = dusty_dng.read_bytes(), target.read_bytes()
    assert len(old) == len(new)
    assert sum(a != b for a, b in zip(old, new, strict=True)) <= 2 * SIDE * SIDE


def test_an_existing_file_is_never_replaced_and_nothing_half_is_left(tmp_path: Path) -> None:
    source, target = jpeg(tmp_path / "a.jpg"), tmp_path / "b.jpg"
    target.write_text("mine")
    picture = read_picture(source)
    with pytest.raises(FileExistsError):
        write_patched(source, picture, [], target)
    assert target.read_text() == "mine"
    assert sorted(p.name for p in tmp_path.iterdir()) == ["a.jpg", "b.jpg"]


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("packed.dng", "cannot be read"),
        ("palette.png", "colour table"),
        ("cmyk.jpg", "printing ones"),
        ("float.tif", "8 or 16 bits"),
        ("a.gif", "only JPEG, PNG, TIFF, WebP"),
        ("a.txt", "not a picture"),
        ("cut.jpg", "damaged or cut short"),
        ("none.jpg", "no such file"),
        ("empty.jpg", "empty"),
    ],
)
def test_what_cannot_be_patched_says_what_to_do(
    tmp_path: Path, dusty_dng: Path, name: str, words: str
) -> None:
    path = tmp_path / name
    picture = Image.fromarray(content())
    if name == "packed.dng":
        data = bytearray(dusty_dng.read_bytes())
        with tifffile.TiffFile(dusty_dng) as tif:
            where = tif.pages.first.tags[259].valueoffset
        data[where : where + 2] = struct.pack("<H", 7)
        path.write_bytes(data)
    elif name == "palette.png":
        picture.quantize(16).save(path)
    elif name == "cmyk.jpg":
        picture.convert("CMYK").save(path)
    elif name == "float.tif":
        tifffile.imwrite(path, content().astype(np.float32), photometric="rgb")
    elif name == "a.gif":
        picture.save(path)
    elif name == "a.txt":
        path.write_text("dear diary " * 20)
    elif name == "cut.jpg":
        path.write_bytes(jpeg(tmp_path / "w.jpg").read_bytes()[:5000])
    elif name == "empty.jpg":
        path.write_bytes(b"")
    with pytest.raises(UnusableFrameError, match=words):
        read_picture(path)


def test_a_glance_is_small_and_as_bright(tmp_path: Path) -> None:
    path = dusty.written(tmp_path / "a.jpg", np.asarray(dusty.picture((), 3), np.uint8))
    whole = read_picture(path)
    light, facts = read_glance(path, 700)
    assert max(light.shape) <= 700
    assert (facts.width_px, facts.height_px) == whole.shape[::-1]
    assert light.mean() == pytest.approx(whole.light(4).mean(), rel=0.03)
    assert read_facts(path).f_number == 11.0
    assert whole.light(3).shape == (whole.shape[0] // 3, whole.shape[1] // 3)
