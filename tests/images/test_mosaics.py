"""Patched RAW files: bit for bit beside the windows, and whatever developing needs."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Any

import imagecodecs
import numpy as np
import pytest
import rawpy
import tifffile
from numpy.typing import NDArray
from PIL import Image

from neatpatch.core.common.errors import UnusableFrameError
from neatpatch.core.patching.restoring import PatchedWindow
from neatpatch.images.pictures import read_picture
from neatpatch.images.sniff import sniff
from neatpatch.images.stored import Picture
from neatpatch.images.writeback import with_windows, write_patched
from neatpatch.images.xmp import PatchNote, Place, packet_of, read_note, with_note

NOTE = PatchNote("ab" * 32, "2026-11-20T09:00:00", (Place(40.5, 60, 21), Place(90, 20, 11)))
AREA = (4, 8, 260, 392)
BLACK = (512.0, 530.0, 524.0, 516.0)
OTHER_TAG = 52000


def mosaic() -> NDArray[np.uint16]:
    rng = np.random.default_rng(4)
    return rng.normal(6000, 300, (272, 400)).astype(np.uint16)


def packed_dng(path: Path, how: str, **more: Any) -> Path:
    """A DNG as converters write it: a small picture first, the mosaic below it."""
    tags = [
        (33421, 3, 2, more.get("pattern", (2, 2)), True),
        (33422, 1, 4, bytes([0, 1, 1, 2]), True),
        (50713, 3, 2, (2, 2), True),
        (50714, 5, 4, tuple(n for b in BLACK for n in (int(b * 10), 10)), True),
        (50717, 4, 1, 15000, True),
        (50829, 4, 4, AREA, True),
    ]
    if more.get("table"):
        tags.append((50712, 3, 4, (0, 1, 2, 3), True))
    first = [
        (50706, 1, 4, bytes([1, 4, 0, 0]), True),
        (50708, 2, 0, "Fennick Optical Judge 24", True),
        (50721, 10, 9, (9, 10, 0, 1, 0, 1, 0, 1, 1, 1, 0, 1, 0, 1, 0, 1, 9, 10), True),
        (51111, 1, 16, bytes(range(16)), True),
        (OTHER_TAG, 2, 0, "tide chart", True),
    ]
    stored, layout = mosaic(), dict[str, Any](metadata=None, photometric=32803, extratags=tags)
    with tifffile.TiffWriter(path) as tif:
        small = np.zeros((64, 96, 3), np.uint8)
        tif.write(small, subfiletype=1, subifds=1, metadata=None, extratags=first)
        if how == "tiles":
            tiles = [
                bytes(imagecodecs.ljpeg_encode(np.pad(part, room, mode="edge"), bitspersample=16))
                for top in range(0, 272, 128)
                for left in range(0, 400, 128)
                for part in [stored[top : top + 128, left : left + 128]]
                for room in [[(0, 128 - part.shape[0]), (0, 128 - part.shape[1])]]
            ]
            layout |= {"compression": 7, "tile": (128, 128), "bitspersample": 16}
            tif.write(iter(tiles), shape=stored.shape, dtype=np.uint16, **layout)
        else:
            tif.write(stored, compression="zlib" if how == "deflate" else None, **layout)
    return path


def window(picture: Picture) -> list[PatchedWindow]:
    part = picture.whole[50:71, 30:51].copy()
    part += 9
    return [PatchedWindow(30, 50, part)]


@pytest.mark.parametrize("how", ["tiles", "deflate", "plain"])
def test_a_dng_stays_itself_beside_the_windows(tmp_path: Path, how: str) -> None:
    source, target = packed_dng(tmp_path / "a.dng", how), tmp_path / "b.dng"
    top, left, bottom, right = AREA
    picture = read_picture(source)
    assert np.array_equal(picture.whole, mosaic()[top:bottom, left:right])
    assert picture.levels is not None
    assert picture.levels.black == ((512, 530), (524, 516))
    write_patched(source, picture, window(picture), target, NOTE)
    wanted = with_windows(picture.whole, window(picture))
    assert np.array_equal(read_picture(target).whole, wanted)
    with rawpy.imread(str(target)) as raw:
        assert np.array_equal(raw.raw_image_visible, wanted)
    with tifffile.TiffFile(source) as old, tifffile.TiffFile(target) as new:
        before, after = ({t.code for t in f.pages.first.tags.values()} for f in (old, new))
        assert after == (before | {700}) - {51111}
        assert new.pages.first.tags.valueof(OTHER_TAG) == "tide chart"
        below: Any = new.pages.first.pages
        whole = below[0].asarray()
        assert np.array_equal(whole[:, :left], mosaic()[:, :left])
        if how == "tiles":
            kept = _pieces(source, old)[1:] == _pieces(target, new)[1:]
            assert kept, "tiles without a window are the same bytes"
    assert read_note(target) == NOTE


def _pieces(path: Path, tif: Any) -> list[bytes]:
    data, page = path.read_bytes(), tif.pages.first.pages[0]
    spans = zip(page.dataoffsets, page.databytecounts, strict=True)
    return [data[start : start + count] for start, count in spans]


@pytest.mark.parametrize(
    ("more", "words"),
    [({"table": True}, "table of tones"), ({"pattern": (6, 6)}, "no plain mosaic")],
)
def test_a_dng_that_could_not_be_kept_is_refused(
    tmp_path: Path, more: dict[str, Any], words: str
) -> None:
    with pytest.raises(UnusableFrameError, match=words):
        read_picture(packed_dng(tmp_path / "a.dng", "plain", **more))


def as_makers_raw(dng: Path, path: Path, *, colours: bool = True) -> Path:
    """The same mosaic as a camera's own file: it is no DNG, and may not tell its colours."""
    data = bytearray(dng.read_bytes())
    (start,) = struct.unpack_from("<I", data, 4)
    (count,) = struct.unpack_from("<H", data, start)
    for at in range(start + 2, start + 2 + 12 * count, 12):
        (code,) = struct.unpack_from("<H", data, at)
        if code == 50706 or (code == 50721 and not colours):
            struct.pack_into("<H", data, at, code - 3)
    path.parent.mkdir(exist_ok=True)
    path.write_bytes(data)
    assert sniff(path) == "raw"
    return path


def test_a_makers_raw_becomes_a_sound_dng(tmp_path: Path, dusty_dng: Path) -> None:
    source, target = as_makers_raw(dusty_dng, tmp_path / "a.raw"), tmp_path / "a.dng"
    picture = read_picture(source)
    write_patched(source, picture, window(picture), target, NOTE)
    wanted = with_windows(picture.whole, window(picture))
    assert sniff(target) == "dng"
    assert np.array_equal(read_picture(target).whole, wanted)
    with rawpy.imread(str(source)) as old, rawpy.imread(str(target)) as new:
        assert np.array_equal(new.raw_image_visible, wanted)
        assert np.array_equal(new.raw_colors_visible, old.raw_colors_visible)
        assert new.white_level == old.white_level
        assert new.camera_whitebalance == pytest.approx(old.camera_whitebalance, abs=1e-4)
    with tifffile.TiffFile(target) as tif:
        page: Any = tif.pages.first
        named = {tag.name: tag.value for tag in page.tags.values()}
        assert np.array_equal(page.pages[0].asarray(), wanted)
        assert (
            page.shape == (picture.shape[0] // 2, picture.shape[1] // 2, 3)
            or max(page.shape) == 1024
        )
    assert named["OriginalRawFileName"].rstrip(b"\0") == b"a.raw"
    assert named["Model"] == "Fennick Optical Judge 24"
    assert {"FNumber", "ExposureTime", "DateTimeOriginal", "ColorMatrix1"} <= set(named)
    assert read_picture(target).facts.f_number == picture.facts.f_number
    assert read_note(target) == NOTE


def test_a_raw_that_cannot_become_a_sound_dng_is_refused(tmp_path: Path, dusty_dng: Path) -> None:
    source = as_makers_raw(dusty_dng, tmp_path / "a.raw", colours=False)
    picture = read_picture(source)
    with pytest.raises(UnusableFrameError, match="colours are not known"):
        write_patched(source, picture, window(picture), tmp_path / "a.dng", NOTE)
    assert [p.name for p in tmp_path.iterdir()] == ["a.raw"]


def test_a_packet_keeps_what_else_it_tells(tmp_path: Path) -> None:
    mine = (
        b'<x:xmpmeta xmlns:x="urn:x"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-'
        b'rdf-syntax-ns#"><rdf:Description rdf:about="" xmlns:d="urn:d" d:title="Tide"/>'
        b"</rdf:RDF></x:xmpmeta>"
    )
    source, target = tmp_path / "a.jpg", tmp_path / "b.jpg"
    Image.new("RGB", (128, 128), (90, 120, 130)).save(source, xmp=mine)
    write_patched(source, read_picture(source), [], target, NOTE)
    packet = packet_of(target)
    assert packet is not None
    assert b'd:title="Tide"' in packet
    assert read_note(target) == NOTE
    assert read_note(source) is None
    other = packet.decode().encode("utf-16")
    assert with_note(other, NOTE) == other
    assert read_note_of(tmp_path, other) is None


def test_a_png_s_packet_is_replaced_and_stands_once(tmp_path: Path) -> None:
    source, first, second = (tmp_path / f"{n}.png" for n in "abc")
    Image.new("RGB", (100, 90), (90, 120, 130)).save(source)
    write_patched(source, read_picture(source), [], first, NOTE)
    write_patched(first, read_picture(first), [], second, NOTE)
    assert second.read_bytes().count(b"iTXt") == 1
    note = read_note(second)
    assert note is not None
    assert note.places == NOTE.places * 2
    tif = tmp_path / "a.tif"
    tifffile.imwrite(tif, np.zeros((90, 100, 3), np.uint8), photometric="rgb")
    write_patched(tif, read_picture(tif), [], tmp_path / "b.tif", NOTE)
    assert read_note(tmp_path / "b.tif") == NOTE
    assert np.array_equal(read_picture(tmp_path / "b.tif").whole, read_picture(tif).whole)


def read_note_of(folder: Path, packet: bytes) -> PatchNote | None:
    Image.new("L", (80, 80)).save(folder / "c.jpg", xmp=packet)
    return read_note(folder / "c.jpg")


@pytest.mark.parametrize("lossless", [True, False])
def test_a_webp_keeps_its_pixels_and_notes(tmp_path: Path, *, lossless: bool) -> None:
    tones = np.random.default_rng(2).integers(60, 180, (160, 200, 3)).astype(np.uint8)
    exif = Image.Exif()
    exif[272] = "Fennick Optical Judge 24"
    source, target = tmp_path / "a.webp", tmp_path / "b.webp"
    Image.fromarray(tones).save(source, lossless=lossless, exif=exif, icc_profile=b"profile")
    picture = read_picture(source)
    write_patched(source, picture, window(picture), target, NOTE)
    assert np.array_equal(read_picture(target).whole, with_windows(picture.whole, window(picture)))
    with Image.open(target) as image:
        assert image.getexif()[272] == "Fennick Optical Judge 24"
        assert image.info["icc_profile"] == b"profile"
    assert read_note(target) == NOTE
