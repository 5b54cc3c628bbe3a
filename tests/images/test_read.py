"""Every kind of file that a user may drop, good and bad."""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import tifffile
from PIL import Image

from neatpatch.core.common.errors import LimitExceededError, UnusableFrameError
from neatpatch.core.measure.map_building import build_map
from neatpatch.images.hashing import sha256_of
from neatpatch.images.limits import Limits
from neatpatch.images.read import read_frame
from neatpatch.images.transfer import curve_for, srgb_curve

Grey = np.ndarray


def scene(levels: int, dtype: type) -> Grey:
    y, x = np.mgrid[0:120, 0:160]
    return np.asarray(levels * (0.3 + 0.4 * x / 160) * (0.9 + 0.1 * y / 120)).astype(dtype)


def linear(grey: Grey, levels: int) -> Grey:
    return np.asarray(srgb_curve(levels)[grey])


def test_jpeg_tells_its_exposure(dusty_jpeg: Path) -> None:
    frame = read_frame(dusty_jpeg)
    facts = frame.facts
    assert (facts.format, facts.width_px, facts.height_px) == ("JPEG", 2800, 1858)
    assert (facts.f_number, facts.iso, facts.focal_length_mm) == (22.0, 100, 85.0)
    assert facts.exposure_s == pytest.approx(1.3)
    assert facts.taken_at == "2026-09-14T10:00:00"
    assert facts.camera == "Fennick Optical Judge 24"
    assert facts.jpeg_quality == pytest.approx(94, abs=2)
    assert facts.sha256 == sha256_of(dusty_jpeg)
    assert 0.25 < float(frame.luminance.mean()) < 0.45


def test_dng_is_read_from_the_mosaic(dusty_dng: Path) -> None:
    frame = read_frame(dusty_dng)
    assert frame.mosaic
    assert (frame.facts.format, frame.facts.f_number) == ("DNG", 16.0)
    quads = [frame.luminance[r::2, c::2].mean() for r in (0, 1) for c in (0, 1)]
    assert max(quads) / min(quads) < 1.01


@pytest.mark.parametrize("mode", ["L", "RGB", "RGBA", "P", "CMYK", "LA"])
def test_eight_bit_modes_keep_the_tones(mode: str, tmp_path: Path) -> None:
    grey = scene(255, np.uint8)
    path = tmp_path / "x.img"
    image = Image.fromarray(grey)
    image = image.convert("RGB").quantize(256) if mode == "P" else image.convert(mode)
    image.save(path, "TIFF" if mode == "CMYK" else "PNG")
    frame = read_frame(path)
    assert frame.shape == (120, 160)
    assert np.median(np.abs(frame.luminance - linear(grey, 256))) < 0.02
    if mode in ("CMYK", "P"):
        assert frame.facts.notes


def png16(grey: Grey, path: Path) -> None:
    def chunk(kind: bytes, data: bytes) -> bytes:
        body = kind + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    rows = b"".join(b"\0" + row.astype(">u2").tobytes() for row in grey)
    header = struct.pack(">IIBBBBB", grey.shape[1], grey.shape[0], 16, 0, 0, 0, 0)
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(rows))
        + chunk(b"IEND", b"")
    )


def tiff16_grey(grey: Grey, path: Path) -> None:
    tifffile.imwrite(path, grey)


def tiff16_colour(grey: Grey, path: Path) -> None:
    tifffile.imwrite(path, np.stack([grey] * 3, axis=-1), photometric="rgb")


@pytest.mark.parametrize("write", [png16, tiff16_grey, tiff16_colour])
def test_sixteen_bits_are_not_cut_to_eight(
    write: Callable[[Grey, Path], None], tmp_path: Path
) -> None:
    grey = scene(65535, np.uint16)
    path = tmp_path / "x"
    write(grey, path)
    frame = read_frame(path)
    assert frame.facts.bit_depth == 16
    assert np.max(np.abs(frame.luminance - linear(grey, 65536))) < 1e-4


def test_type_is_told_by_content_not_by_name(dusty_jpeg: Path, tmp_path: Path) -> None:
    path = tmp_path / "wrong.png"
    path.write_bytes(dusty_jpeg.read_bytes())
    assert read_frame(path).facts.format == "JPEG"


def test_animated_picture_gives_its_first_frame_and_a_note(tmp_path: Path) -> None:
    first, second = (Image.fromarray(scene(n, np.uint8)) for n in (250, 120))
    path = tmp_path / "a.png"
    first.save(path, save_all=True, append_images=[second])
    frame = read_frame(path)
    assert "first of several" in frame.facts.notes[0]
    assert frame.luminance.mean() == pytest.approx(
        linear(scene(250, np.uint8), 256).mean(), rel=0.02
    )


def test_no_metadata_is_no_error(tmp_path: Path) -> None:
    path = tmp_path / "bare.jpg"
    Image.fromarray(scene(255, np.uint8)).save(path)
    facts = read_frame(path).facts
    assert (facts.f_number, facts.iso, facts.camera, facts.taken_at) == (None, None, None, None)
    assert facts.orientation == 1


def test_the_input_file_is_never_changed(dusty_jpeg: Path) -> None:
    before = dusty_jpeg.read_bytes(), dusty_jpeg.stat().st_mtime_ns
    read_frame(dusty_jpeg)
    assert (dusty_jpeg.read_bytes(), dusty_jpeg.stat().st_mtime_ns) == before


def encoded(kind: str) -> bytes:
    out = io.BytesIO()
    Image.fromarray(scene(255, np.uint8)).save(out, kind)
    return out.getvalue()


def bomb() -> bytes:
    """A PNG that claims 60000 x 60000 pixels."""
    header = struct.pack(">IIBBBBB", 60000, 60000, 8, 0, 0, 0, 0)
    body = b"IHDR" + header
    return (
        b"\x89PNG\r\n\x1a\n"
        + struct.pack(">I", 13)
        + body
        + struct.pack(">I", zlib.crc32(body))
        + encoded("PNG")[33:]
    )


BAD = {
    "empty": (b"", "empty"),
    "text": (b"dear diary, " * 30, "not a picture"),
    "cut jpeg": (encoded("JPEG")[: len(encoded("JPEG")) // 2], "damaged or cut short"),
    "cut png": (encoded("PNG")[: len(encoded("PNG")) // 2], "damaged or cut short"),
    "cut tiff": (encoded("TIFF")[:500], "damaged or cut short"),
    "jpeg head only": (b"\xff\xd8\xff\xe0", "damaged or cut short"),
    "bomb": (bomb(), "more than the"),
    "raw head only": (b"II*\0" + struct.pack("<IHHHII", 8, 1, 0xC612, 1, 4, 1), "cannot be read"),
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_say_what_is_wrong_and_what_to_do(name: str, tmp_path: Path) -> None:
    data, words = BAD[name]
    path = tmp_path / "bad.jpg"
    path.write_bytes(data)
    with pytest.raises(UnusableFrameError, match=words) as caught:
        read_frame(path)
    assert str(caught.value).count(".") >= 1


def test_one_pixel_is_too_small(tmp_path: Path) -> None:
    path = tmp_path / "dot.png"
    Image.new("RGB", (1, 1)).save(path)
    with pytest.raises(UnusableFrameError, match="only 1 x 1 pixels"):
        read_frame(path)


def test_limits_hold_before_decoding(dusty_jpeg: Path) -> None:
    with pytest.raises(LimitExceededError, match="MB"):
        read_frame(dusty_jpeg, Limits(max_bytes=1000))
    with pytest.raises(LimitExceededError, match="pixels"):
        read_frame(dusty_jpeg, Limits(max_pixels=1_000_000))


def test_no_such_file(tmp_path: Path) -> None:
    with pytest.raises(UnusableFrameError, match="no such file"):
        read_frame(tmp_path / "none.jpg")


def test_profile_curves() -> None:
    gamma = (
        b"\0" * 128
        + struct.pack(">I4sII", 1, b"gTRC", 144, 14)
        + b"curv\0\0\0\0"
        + struct.pack(">IH", 1, 512)
    )
    assert curve_for(gamma, 3) == pytest.approx([0, 0.25, 1])
    assert curve_for(b"nonsense", 3) == pytest.approx(srgb_curve(3))
    parametric = b"para\0\0\0\0" + struct.pack(">HHi", 0, 0, 2 * 65536)
    tagged = b"\0" * 128 + struct.pack(">I4sII", 1, b"gTRC", 144, len(parametric)) + parametric
    assert curve_for(tagged, 3) == pytest.approx([0, 0.25, 1])


def test_heif_is_read() -> None:
    frame = read_frame(Path(__file__).parent / "data" / "even.heic")
    assert (frame.facts.format, frame.facts.orientation) == ("HEIF", 1)
    assert np.median(np.abs(frame.luminance - linear(scene(255, np.uint8), 256))) < 0.01


def test_a_wide_gamut_profile_changes_no_ratio(tmp_path: Path) -> None:
    """Dust is a ratio: stored through another tone curve and profile, it comes out the same."""
    light = linear(scene(65535, np.uint16), 65536)
    stored = np.round(light ** (1 / 2.2) * 65535).astype(np.uint16)
    profile = (
        b"\0" * 128
        + struct.pack(">I4sII", 1, b"gTRC", 144, 14)
        + b"curv\0\0\0\0"
        + struct.pack(">IH", 1, round(2.2 * 256))
    )
    path = tmp_path / "wide.tif"
    tifffile.imwrite(path, np.stack([stored] * 3, -1), photometric="rgb", iccprofile=profile)
    ratio = read_frame(path).luminance / light
    assert ratio.max() / ratio.min() < 1.01


def test_strong_compression_and_small_size_are_noted(dusty_jpeg: Path, tmp_path: Path) -> None:
    path = tmp_path / "poor.jpg"
    with Image.open(dusty_jpeg) as image:
        image.resize((1200, 796)).save(path, quality=30)
    codes = {c.code: c.level for c in build_map(read_frame(path)).checks}
    assert codes["compressed"] == "retake"
    assert codes["too_few_pixels"] == "retake"


def test_raw_notes_out_of_range_are_ignored(dusty_dng: Path, tmp_path: Path) -> None:
    """An orientation of 38 in an otherwise good file must not spoil it."""
    data = bytearray(dusty_dng.read_bytes())
    place = data.index(struct.pack("<HHI", 274, 3, 1)) + 8
    data[place] = 38
    path = tmp_path / "odd.dng"
    path.write_bytes(bytes(data))
    assert 1 <= read_frame(path).facts.orientation <= 8
