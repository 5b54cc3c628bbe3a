"""Sound pictures with odd notes, RAW files of rarer kinds, and files made to cost much."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import ExifTags, Image, ImageDraw
from PIL.TiffImagePlugin import IFDRational

from neatpatch.core.common.errors import NoMemoryError
from neatpatch.core.measure.map_building import build_map
from neatpatch.images import raster
from neatpatch.images.metadata import Exposure, exposure_facts, iso_time
from neatpatch.images.read import read_frame
from neatpatch.images.sniff import sniff
from neatpatch.images.write import ExposureNotes, write_dng

NOTES = ExposureNotes(
    camera="Fennick Mono",
    f_number=22,
    iso=100,
    exposure_s=1,
    focal_length_mm=85,
    taken_at="2026-01-02T03:04:05",
)
OFFSET_AT, PHOTOMETRIC, PATTERN_TAGS, LINEAR_RAW = 4, 262, (33421, 33422), 34892


def jpeg_with(tmp_path: Path, tag: int, value: IFDRational) -> Path:
    exif = Image.Exif()
    exif.get_ifd(ExifTags.IFD.Exif)[tag] = value
    path = tmp_path / "odd.jpg"
    Image.fromarray(np.full((200, 300, 3), 120, np.uint8)).save(path, exif=exif.tobytes())
    return path


@pytest.mark.parametrize(
    ("tag", "value"),
    [
        (ExifTags.Base.ApertureValue, IFDRational(2100, 1)),
        (ExifTags.Base.FNumber, IFDRational(4_000_000_000, 1)),
        (ExifTags.Base.FNumber, IFDRational(1, 4_000_000_000)),
    ],
)
def test_an_impossible_aperture_costs_the_aperture_and_not_the_picture(
    tag: int, value: IFDRational, tmp_path: Path
) -> None:
    found = build_map(read_frame(jpeg_with(tmp_path, tag, value)))
    assert found.frames[0].f_number is None
    assert "aperture_unknown" in [c.code for c in found.checks]
    assert "an impossible aperture" in found.frames[0].notes[0]


def test_values_that_no_camera_writes_are_left_out_one_by_one() -> None:
    found, notes = exposure_facts(
        Exposure(f_number=1e300, iso=10**40, exposure_s=0.5, focal_length_mm=-3)
    )
    assert (found["f_number"], found["iso"], found["focal_length_mm"]) == (None, None, None)
    assert found["exposure_s"] == 0.5
    assert notes == ("the file tells an impossible aperture and ISO, which was left out",)
    assert exposure_facts(Exposure(aperture_value=9))[0]["f_number"] == 22.6
    assert exposure_facts(Exposure()) == (dict.fromkeys(found), ())


@pytest.mark.parametrize(
    ("told", "read"),
    [
        ("2026:09:14 10:00:00", "2026-09-14T10:00:00"),
        ("9999:99:99 99:99:99", None),
        ("2026:02:31 10:00:00", None),
        ("0000:00:00 00:00:00", None),
        ("1970:01:01 00:00:00", None),
        ("yesterday", None),
    ],
)
def test_a_time_is_a_time_or_nothing(told: str, read: str | None) -> None:
    assert iso_time(told) == read


def mosaic(level: int = 20_000) -> np.ndarray:
    grey = np.random.default_rng(1).normal(level, 200, (300, 450))
    return np.asarray(np.clip(grey, 0, 65_535), np.uint16)


def retagged(path: Path, *, photometric: int | None = None, without_pattern: bool = False) -> None:
    """Change a little-endian TIFF's first directory in place."""
    data = bytearray(path.read_bytes())
    (start,) = struct.unpack_from("<I", data, OFFSET_AT)
    (count,) = struct.unpack_from("<H", data, start)
    for at in range(start + 2, start + 2 + 12 * count, 12):
        (tag,) = struct.unpack_from("<H", data, at)
        if tag == PHOTOMETRIC and photometric is not None:
            struct.pack_into("<I", data, at + 8, photometric)
        if tag in PATTERN_TAGS and without_pattern:
            struct.pack_into("<H", data, at, 65_000 + tag - PATTERN_TAGS[0])
    path.write_bytes(data)


@pytest.mark.parametrize("photometric", [None, LINEAR_RAW])
def test_raw_of_a_sensor_without_colour_filters_is_read(
    photometric: int | None, tmp_path: Path
) -> None:
    path = tmp_path / "mono.dng"
    write_dng(path, mosaic(), NOTES, 65_535)
    retagged(path, photometric=photometric, without_pattern=True)
    frame = read_frame(path)
    assert (frame.facts.format, frame.facts.f_number) == ("DNG", 22.0)
    assert float(np.median(frame.luminance)) == pytest.approx(20_000 / 65_535, rel=0.01)


@pytest.mark.parametrize("order", ["<", ">"])
def test_a_dng_is_told_by_its_first_directory_wherever_that_lies(
    order: str, tmp_path: Path
) -> None:
    path = tmp_path / "late.dng"
    entry = struct.pack(order + "HHIBBBB", 50_706, 1, 4, 1, 4, 0, 0)
    directory = struct.pack(order + "H", 1) + entry + bytes(4)
    head = (b"II*\0" if order == "<" else b"MM\0*") + struct.pack(order + "I", 300_000)
    path.write_bytes(head.ljust(300_000, b"\0") + directory)
    assert sniff(path) == "dng"
    path.write_bytes(head)
    assert sniff(path) == "tiff"


def test_a_dng_with_a_late_directory_is_measured_as_raw(tmp_path: Path) -> None:
    path = tmp_path / "early.dng"
    write_dng(path, mosaic(), NOTES, 65_535)
    data = path.read_bytes()
    (start,) = struct.unpack_from("<I", data, OFFSET_AT)
    (count,) = struct.unpack_from("<H", data, start)
    directory = data[start : start + 2 + 12 * count + 4]
    late = tmp_path / "late.dng"
    padding = bytes(-len(data) % 2 + 70_000)
    at = struct.pack("<I", len(data) + len(padding))
    late.write_bytes(data[:OFFSET_AT] + at + data[OFFSET_AT + 4 :] + padding + directory)
    early, moved = read_frame(path), read_frame(late)
    assert np.array_equal(early.luminance, moved.luminance)
    assert (moved.facts.format, moved.facts.f_number) == ("DNG", 22.0)


def test_directories_of_a_tiff_are_not_counted(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "many.tif"
    page = np.full((80, 90), 120, np.uint8)
    with tifffile.TiffWriter(path) as out:
        for _ in range(30):
            out.write(page)

    def counted(_image: object) -> int:
        raise AssertionError("the directories were counted")

    monkeypatch.setattr("PIL.TiffImagePlugin.TiffImageFile.n_frames", property(counted))
    frame = read_frame(path)
    assert frame.facts.notes == ("only the first of several pictures in the file was read",)


def page_of_text(path: Path) -> Path:
    """A scanned page: thousands of dark marks on white, with a scanner's noise."""
    page = Image.new("L", (1700, 2200), 240)
    draw = ImageDraw.Draw(page)
    for row, top in enumerate(range(60, 2140, 24)):
        draw.text((60, top), "".join(chr(97 + (row + i) % 26) for i in range(250)), fill=20)
    noise = np.random.default_rng(2).normal(0, 2, (2200, 1700))
    Image.fromarray(np.clip(np.asarray(page) + noise, 0, 255).astype(np.uint8)).save(path)
    return path


def dots(path: Path) -> Path:
    """A printed halftone: many more dots than any sensor has dust."""
    grey = np.full((1500, 2100), 140.0)
    for top in range(20, 1480, 25):
        for left in range(20, 2080, 25):
            grey[top - 4 : top + 5, left - 4 : left + 5] -= 60
    grey += np.random.default_rng(2).normal(0, 2, grey.shape)
    Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8)).save(path)
    return path


@pytest.mark.parametrize("draw", [page_of_text, dots])
def test_what_is_plainly_no_test_frame_is_told_so_and_not_measured(
    draw: object, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    measured: list[object] = []
    monkeypatch.setattr(
        "neatpatch.core.measure.map_building.measure_region", lambda *given: measured.append(given)
    )
    found = build_map(read_frame(draw(tmp_path / "scan.png")))  # type: ignore[operator]
    assert measured == []
    assert not found.fit
    assert found.spots == ()
    first = found.checks[0]
    assert (first.code, first.level) == ("target_in_focus", "retake")
    assert "no frame of an even target" in first.message
    assert "grainy" not in [c.code for c in found.checks]
    assert json.loads(found.model_dump_json())["fit"] is False


def test_large_pictures_keep_their_light_in_half_the_room(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    ramp = np.linspace(5, 250, 400)[None, :] + np.zeros((300, 1))
    path = tmp_path / "ramp.png"
    Image.fromarray(np.stack([ramp.astype(np.uint8)] * 3, axis=2)).save(path)
    plain = read_frame(path).luminance
    monkeypatch.setattr(raster, "_LARGE_PX", 1000)
    coded = read_frame(path)
    assert coded.light.size == plain.size
    assert np.allclose(coded.luminance, plain, rtol=2e-3)
    assert np.allclose(coded.light[10:20, 300:320], plain[10:20, 300:320], rtol=2e-4)


def test_want_of_memory_is_called_that(dusty_jpeg: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def none_left(*_given: object) -> None:
        raise MemoryError

    monkeypatch.setattr(raster, "jpeg_luma", none_left)
    with pytest.raises(NoMemoryError, match="not enough memory"):
        read_frame(dusty_jpeg)
