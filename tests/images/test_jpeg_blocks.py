"""A JPEG picture as its blocks: decoded where it is asked, and changed there alone."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.images.jpeg_blocks import Change, JpegBlocks
from neatpatch.images.pictures import read_picture, read_to_write
from neatpatch.images.writeback import write_patched
from tests import dusty_pictures as dusty
from tests.images.test_pictures import LEFT, SIDE, TOP, brighter, content, jpeg

CODINGS: list[dict[str, Any]] = [
    {"quality": 92, "subsampling": 0},
    {"quality": 85, "subsampling": 1},
    {"quality": 90, "subsampling": 2, "progressive": True},
    {"quality": 95, "keep_rgb": True},
]
NAMES = ["4:4:4", "4:2:2", "4:2:0 progressive", "red, green and blue"]
coded = pytest.mark.parametrize("how", CODINGS, ids=NAMES)


@coded
@pytest.mark.parametrize(
    "window",
    [np.s_[101:141, 203:243], np.s_[0:9, 0:33], np.s_[380:405, 590:611], np.s_[:, :]],
    ids=["inside", "first corner", "last corner", "all"],
)
def test_a_window_is_what_decoders_make_of_it(
    tmp_path: Path, how: dict[str, Any], window: tuple[slice, slice]
) -> None:
    source = jpeg(tmp_path / "a.jpg", **how)
    off = JpegBlocks(source)[window].astype(int) - dusty.pixels(source)[window]
    assert np.abs(off).max() <= 3
    assert abs(off.mean()) < 0.2


def test_a_grey_picture_has_one_plane(tmp_path: Path) -> None:
    source = tmp_path / "a.jpg"
    Image.fromarray(content()[..., 1]).save(source, quality=95)
    blocks = JpegBlocks(source)
    assert blocks.shape == (405, 611)
    assert np.abs(blocks[50:90, 60:99].astype(int) - dusty.pixels(source)[50:90, 60:99]).max() <= 1


@coded
@pytest.mark.parametrize("step", [1, 2, 4, 8])
def test_luma_is_the_mean_over_squares(tmp_path: Path, how: dict[str, Any], step: int) -> None:
    source = jpeg(tmp_path / "a.jpg", **how)
    with Image.open(source) as image:
        whole = np.asarray(image.convert("L"), np.float32)
    high, wide = (n // step for n in whole.shape)
    means = whole[: high * step, : wide * step].reshape(high, step, wide, step).mean(axis=(1, 3))
    luma = JpegBlocks(source).luma(step)
    assert luma.shape == (high, wide)
    assert np.abs(luma - means).max() <= 2
    assert abs(float((luma - means).mean())) < 0.2


@pytest.mark.parametrize("step", [1, 3, 4, 6])
def test_a_picture_to_be_written_shows_the_same_light(tmp_path: Path, step: int) -> None:
    source = jpeg(tmp_path / "a.jpg", quality=95, subsampling=0)
    plain, blocks = read_picture(source), read_to_write(source)
    assert blocks.shape == plain.shape
    assert np.allclose(blocks.light(step), plain.light(step), atol=0.01)
    near, inside = blocks.light_around((70, 40), 9, step)
    assert np.allclose(near, plain.light_around((70, 40), 9, step)[0], atol=0.02)
    assert inside.all()


def test_light_beyond_the_border_is_not_made_up(tmp_path: Path) -> None:
    picture = read_picture(jpeg(tmp_path / "a.jpg"))
    light, inside = picture.light_around((0, 404), 5, 1)
    assert inside.sum() == 36
    assert not light[~inside].any()
    assert not picture.light_around((900, 900), 5, 1)[1].any()


def test_colours_kept_as_such_are_changed_as_such(tmp_path: Path) -> None:
    source, target = jpeg(tmp_path / "a.jpg", quality=96, keep_rgb=True), tmp_path / "b.jpg"
    more = np.zeros((SIDE, SIDE, 3), np.float32)
    more[..., 0] = 20
    target.write_bytes(JpegBlocks(source).changed([Change(LEFT, TOP, more)]))
    change = dusty.pixels(target).astype(int) - dusty.pixels(source)
    inside = change[TOP + 8 : TOP + 32, LEFT + 8 : LEFT + 32].mean(axis=(0, 1))
    assert inside == pytest.approx([20, 0, 0], abs=1)


@coded
def test_what_is_read_to_be_written_is_patched_as_what_is_shown(
    tmp_path: Path, how: dict[str, Any]
) -> None:
    source = jpeg(tmp_path / "a.jpg", **how)
    for name, read in (("shown.jpg", read_picture), ("written.jpg", read_to_write)):
        picture = read(source)
        write_patched(source, picture, brighter(picture), tmp_path / name)
    shown, written = (dusty.pixels(tmp_path / n).astype(int) for n in ("shown.jpg", "written.jpg"))
    assert np.abs(shown - written).max() <= 4


def test_a_file_cut_short_is_not_patched(tmp_path: Path) -> None:
    whole = jpeg(tmp_path / "whole.jpg").read_bytes()
    cut = tmp_path / "cut.jpg"
    for length in (300, len(whole) // 2, len(whole) - 200):
        cut.write_bytes(whole[:length])
        with pytest.raises(UnusableFrameError, match=r"damaged|cut short|rare"):
            read_to_write(cut)


DAMAGED = """
import random, sys
from pathlib import Path
from neatpatch.core.common.errors import NeatPatchError
from neatpatch.images.pictures import read_to_write

whole, path, told = Path(sys.argv[1]).read_bytes(), Path(sys.argv[2]), 0
for seed in range(600):
    chance = random.Random(seed)
    data = bytearray(whole)
    for _ in range(chance.randint(1, 4)):
        data[chance.randrange(2, 900 if seed % 3 else len(data))] = chance.choice(
            [0, 1, 8, 255, 192, 193, 194, 208, 217, chance.randrange(256)]
        )
    if seed % 5 == 0:
        at = chance.randrange(2, 900)
        data[at:at] = chance.randbytes(chance.randint(1, 40))
    path.write_bytes(data)
    try:
        picture = read_to_write(path)
        picture.light(4), picture.tones[3:40, 5:44]
    except NeatPatchError:
        told += 1
assert told > 50, told
"""


def test_damaged_files_are_refused_or_read_but_never_end_the_process(tmp_path: Path) -> None:
    source = jpeg(tmp_path / "a.jpg", quality=60)
    ended = subprocess.run(
        [sys.executable, "-c", DAMAGED, str(source), str(tmp_path / "b.jpg")],
        check=False,
        capture_output=True,
        text=True,
    )
    assert (ended.returncode, ended.stdout, ended.stderr) == (0, "", "")


def frame_at(data: bytes | bytearray) -> int:
    """Where the frame's segment begins."""
    at = 2
    while data[at + 1] not in (0xC0, 0xC2):
        at += 2 + int.from_bytes(data[at + 2 : at + 4], "big")
    return at


@pytest.mark.parametrize(
    "put",
    [b"\xff\x01", b"\xff\xd8", b"\xff\xd9", b"\xff\x00", b"\xff\xfe\x00\x01", b"\x12"],
    ids=["bare", "second start", "early end", "filled", "short", "stray"],
)
def test_what_decoders_might_take_otherwise_is_refused(tmp_path: Path, put: bytes) -> None:
    whole = jpeg(tmp_path / "a.jpg").read_bytes()
    at = frame_at(whole)
    other = tmp_path / "b.jpg"
    other.write_bytes(whole[:at] + put + whole[at:])
    with pytest.raises(UnusableFrameError, match="rare"):
        JpegBlocks(other)


def test_light_stored_smaller_than_colours_is_refused(tmp_path: Path) -> None:
    whole = bytearray(jpeg(tmp_path / "a.jpg", subsampling=0).read_bytes())
    whole[frame_at(whole) + 14] = 0x21
    (tmp_path / "b.jpg").write_bytes(whole)
    with pytest.raises(UnusableFrameError, match="rare"):
        JpegBlocks(tmp_path / "b.jpg")


def test_printing_colours_are_refused(tmp_path: Path) -> None:
    path = tmp_path / "c.jpg"
    Image.fromarray(content()).convert("CMYK").save(path)
    with pytest.raises(UnusableFrameError, match="printing"):
        read_to_write(path)
    with pytest.raises(UnusableFrameError, match="rare"):
        JpegBlocks(path)
