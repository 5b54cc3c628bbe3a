"""Files with damage that decoders pass over in silence, and tones stored in unusual ways."""

from __future__ import annotations

import struct
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import tifffile
from PIL import Image

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.images.pictures import read_glance, read_picture, read_to_write
from neatpatch.images.read import read_frame
from neatpatch.images.transfer import curve_for, srgb_curve
from neatpatch.images.writeback import write_patched

READERS = [
    read_frame,
    read_picture,
    read_to_write,
    lambda path: read_glance(path, 1000),
]


def _hole(data: bytes) -> bytes:
    middle = len(data) // 2
    return data[:middle] + bytes(1500) + data[middle + 1500 :]


def _cut(data: bytes) -> bytes:
    return data[: int(len(data) * 0.995)]


def _claims_more(data: bytes) -> bytes:
    """A header that claims 4000 x 4000 over what is there."""
    at = next(i for i in range(len(data)) if data[i : i + 2] in (b"\xff\xc0", b"\xff\xc2"))
    return data[: at + 5] + struct.pack(">HH", 4000, 4000) + data[at + 9 :]


def _no_end(data: bytes) -> bytes:
    return data[:-2]


@pytest.mark.parametrize("damage", [_hole, _cut, _claims_more, _no_end])
@pytest.mark.parametrize("reader", READERS)
def test_a_damaged_jpeg_is_never_measured_nor_patched(
    small_jpeg: Path, tmp_path: Path, damage: Any, reader: Any
) -> None:
    broken = tmp_path / "broken.jpg"
    broken.write_bytes(damage(small_jpeg.read_bytes()))
    with pytest.raises(UnusableFrameError, match=r"damaged or cut short\. Copy it from the card"):
        reader(broken)


def test_flipped_bits_are_heard_where_the_decoder_warns(small_jpeg: Path, tmp_path: Path) -> None:
    rng = np.random.default_rng(7)
    whole = small_jpeg.read_bytes()
    told = 0
    for number in range(20):
        flipped = bytearray(whole)
        flipped[int(rng.integers(3000, len(whole) - 10))] ^= 1 << int(rng.integers(8))
        path = tmp_path / f"{number}.jpg"
        path.write_bytes(flipped)
        try:
            read_frame(path)
        except UnusableFrameError:
            told += 1
    assert told >= 6


@pytest.mark.parametrize("mode", ["L", "RGB", "CMYK"])
@pytest.mark.parametrize("progressive", [False, True])
def test_whole_jpegs_of_all_kinds_are_read_as_ever(
    tmp_path: Path, mode: str, progressive: bool
) -> None:
    tones = np.random.default_rng(3).integers(90, 160, (400, 600, 3)).astype(np.uint8)
    path = tmp_path / "a.jpg"
    Image.fromarray(tones).convert(mode).save(path, quality=92, progressive=progressive)
    assert read_frame(path).shape == (400, 600)
    path.write_bytes(_cut(path.read_bytes()))
    with pytest.raises(UnusableFrameError, match="damaged"):
        read_frame(path)


def test_the_luma_is_that_of_the_usual_decoder(small_jpeg: Path) -> None:
    with Image.open(small_jpeg) as image:
        image.draft("L", image.size)
        usual = np.asarray(image)
    curve = srgb_curve(256)
    assert np.array_equal(read_frame(small_jpeg).luminance, curve[usual])


def _dng(path: Path, black: tuple[Any, ...], white: int = 16383) -> Path:
    tifffile.imwrite(
        path,
        np.full((128, 128), 3000, np.uint16),
        photometric=32803,
        extratags=[
            (50714, *black, True),
            (50717, 4, 1, white, True),
            (33421, 3, 2, (2, 2), True),
            (33422, 1, 4, (0, 1, 1, 2), True),
            (50706, 1, 4, (1, 4, 0, 0), True),
        ],
    )
    return path


@pytest.mark.parametrize(
    "black",
    [
        (4, 4, (512,) * 4),
        (5, 4, (51200, 100) * 4),
        (3, 2, (512, 512)),
        (5, 1, (51200, 100)),
        (4, 1, 512),
        (3, 4, (500, 524, 524, 500)),
    ],
)
def test_black_levels_of_every_type_are_understood(tmp_path: Path, black: tuple[Any, ...]) -> None:
    picture = read_picture(_dng(tmp_path / "a.dng", black))
    assert picture.curve[3000] == pytest.approx((3000 - 512) / (16383 - 512), abs=1e-4)
    assert picture.curve[16000] > picture.curve[1000]


def test_levels_that_contradict_each_other_are_refused(tmp_path: Path) -> None:
    with pytest.raises(UnusableFrameError, match="contradict"):
        read_picture(_dng(tmp_path / "a.dng", (4, 1, 20000)))


@pytest.mark.parametrize("kind", [np.uint8, np.uint16])
def test_a_tiff_whose_white_is_zero_is_read_and_written_the_right_way_up(
    tmp_path: Path, kind: Any
) -> None:
    full = int(np.iinfo(kind).max)
    true = np.full((200, 300), int(full * 0.7), kind)
    true[90:110, 140:160] = int(full * 0.2)
    plain, turned = tmp_path / "plain.tif", tmp_path / "turned.tif"
    tifffile.imwrite(plain, true, photometric="minisblack")
    tifffile.imwrite(turned, np.asarray(full - true, kind), photometric="miniswhite")
    one, other = read_frame(plain), read_frame(turned)
    assert np.allclose(one.luminance, other.luminance, atol=2 / full)
    assert other.luminance[100, 150] < other.luminance[0, 0]
    assert np.array_equal(read_picture(plain).light(1), read_picture(turned).light(1))
    write_patched(turned, read_picture(turned), [], tmp_path / "copy.tif")
    assert (tmp_path / "copy.tif").read_bytes() == turned.read_bytes()


def _profile(*numbers: float, kind: int) -> bytes:
    tag = b"para" + bytes(4) + struct.pack(">HH", kind, 0)
    tag += struct.pack(f">{len(numbers)}i", *(int(n * 65536) for n in numbers))
    return bytes(128) + struct.pack(">I4sII", 1, b"gTRC", 144, len(tag)) + tag


@pytest.mark.parametrize(
    "profile",
    [
        _profile(2.2, 0, 0, kind=1),
        _profile(2.2, 0, 0, 0.1, kind=2),
        _profile(-3, 0, 0, kind=1),
        _profile(2.2, -1, 0, 0, 0.5, kind=3),
    ],
)
def test_a_curve_that_makes_no_sense_is_taken_as_srgb(profile: bytes, tmp_path: Path) -> None:
    assert np.array_equal(curve_for(profile, 256), srgb_curve(256))
    out = BytesIO()
    Image.new("RGB", (600, 400), (128, 128, 128)).save(out, "JPEG", icc_profile=profile)
    (tmp_path / "a.jpg").write_bytes(out.getvalue())
    assert read_frame(tmp_path / "a.jpg").shape == (400, 600)
