"""From files to patched files: whole folders, odd pictures, what is said of each."""

from __future__ import annotations

import os
import subprocess
import sys
from dataclasses import replace
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pytest
import rawpy

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.common.records import Kind
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.core.patching.records import PhotoPatch
from neatpatch.core.pictures.changes import ChangedPlace
from neatpatch.core.sensor.fingerprint import fingerprint_of
from neatpatch.images.pictures import read_picture
from neatpatch.images.read import read_frame
from neatpatch.images.write import ExposureNotes, write_jpeg
from neatpatch.images.xmp import read_note
from neatpatch.services.pictures.arrivals import arrivals_in
from neatpatch.services.pictures.folders import pictures_in, targets_for
from neatpatch.services.pictures.patching import Patching, patch_all
from neatpatch.services.pictures.verify import verify
from neatpatch.simulation import Camera, scatter
from neatpatch.simulation.frames import Recipe, write_simulated
from tests import dusty_pictures as dusty
from tests.images.test_mosaics import as_makers_raw


@pytest.fixture(scope="module")
def run(tmp_path_factory: pytest.TempPathFactory) -> Patching:
    folder = tmp_path_factory.mktemp("map")
    reference = fingerprint_of(read_frame(dusty.shot_frame(folder)))
    return Patching(spot_map=dusty.map_of(folder), reference=reference)


def patched(run: Patching, source: Path, target: Path) -> PhotoPatch:
    [(_, done)] = patch_all(run, [(source, target)])
    return done


def test_a_picture_comes_nearer_to_its_clean_original(run: Patching, tmp_path: Path) -> None:
    source = dusty.written(
        tmp_path / "a.jpg", np.asarray(dusty.picture(dusty.dust(), 41), np.uint8)
    )
    clean = np.asarray(dusty.picture((), 41), np.uint8)
    done = patched(run, source, tmp_path / "out" / "a.jpg")
    assert done.out is not None
    assert done.patched == done.restored + done.filled >= 6
    assert done.patched + len(done.left) == sum(
        s.site in ("sensor", "unsure") for s in run.spot_map.spots
    )
    assert done.alignment is not None
    before, after = dusty.pixels(source), dusty.pixels(Path(done.out))
    changed = (before != after).any(axis=2)
    assert (
        dusty.psnr(after[changed], clean[changed]) > dusty.psnr(before[changed], clean[changed]) + 2
    )


def test_pictures_that_cannot_be_patched_say_why_and_the_rest_goes_on(
    run: Patching, tmp_path: Path
) -> None:
    tones = np.asarray(dusty.picture(dusty.dust(), 42, even=0.9), np.uint8)
    stranger = Camera(name=dusty.CAMERA.name + " II", width_px=dusty.WIDTH_PX)
    other = np.asarray(dusty.picture((), 44, camera=stranger), np.uint8)[100:900, 100:1500]
    files = {
        "good.jpg": (dusty.written(tmp_path / "good.jpg", tones), None),
        "bare.png": (_png(tmp_path / "bare.png", tones), "does not tell the aperture"),
        "maker.jpg": (
            dusty.written(tmp_path / "maker.jpg", tones, camera="Other Maker 5"),
            "taken with Other Maker 5",
        ),
        "cut.jpg": (
            dusty.written(tmp_path / "cut.jpg", np.ascontiguousarray(other)),
            "cut out or of another shape|another sensor",
        ),
        "gone.jpg": (tmp_path / "gone.jpg", "no such file"),
    }
    pairs = [(source, tmp_path / "out" / name) for name, (source, _) in files.items()]
    done = dict(patch_all(run, pairs))
    for index, (name, (_, words)) in enumerate(files.items()):
        if words is None:
            assert done[index].why_not is None
            assert (tmp_path / "out" / name).exists()
        else:
            why = done[index].why_not or ""
            assert any(w in why for w in words.split("|")), (name, why)
            assert done[index].out is None
            assert not (tmp_path / "out" / name).exists()


def test_what_a_killed_writer_left_is_cleared_and_nothing_else(
    run: Patching, tmp_path: Path
) -> None:
    gone = subprocess.Popen([sys.executable, "-c", ""])
    gone.wait()
    out = tmp_path / "out"
    out.mkdir()
    left, mine = out / f".a.jpg.{gone.pid}.part", out / f".b.jpg.{os.getpid()}.part"
    others = out / ".holiday.part"
    for path in (left, mine, others):
        path.write_bytes(b"half")
    list(patch_all(run, [(tmp_path / "missing.jpg", out / "missing.jpg")]))
    assert sorted(out.iterdir()) == sorted([mine, others])


def test_a_picture_from_after_a_clean_is_told_or_left_as_it_is(
    run: Patching, tmp_path: Path
) -> None:
    clean = np.asarray(dusty.picture((), 43, even=0.9), np.uint8)
    source = dusty.written(tmp_path / "clean.jpg", clean)
    known = patched(run, source, tmp_path / "out" / "known.jpg")
    assert known.patched == 0
    assert np.array_equal(dusty.pixels(source), dusty.pixels(Path(known.out or "")))
    told = patched(replace(run, reference=None), source, tmp_path / "out" / "told.jpg")
    assert (told.out, told.patched) == (None, 0)
    assert "None of the shadows" in (told.why_not or "")


def _png(path: Path, tones: np.ndarray) -> Path:
    from PIL import Image

    Image.fromarray(tones).save(path)
    return path


def test_a_bare_mosaic_is_patched_and_stays_a_dng(tmp_path: Path) -> None:
    spot_map = dusty.map_of(tmp_path)
    recipe = Recipe(
        seed=5, width_px=dusty.WIDTH_PX, f_number=11.0, dng=True, name="raw", counts=dusty.COUNTS
    )
    source, _ = write_simulated(recipe, tmp_path, dusty.dust())
    done = patched(Patching(spot_map=spot_map), source, tmp_path / "out" / "raw.dng")
    assert done.why_not is None
    assert done.patched >= 6
    lost = [_light_lost(source), _light_lost(Path(done.out or ""))]
    assert lost[1] < lost[0] / 4


def test_a_camera_s_own_raw_becomes_a_dng_near_to_a_clean_one(tmp_path: Path) -> None:
    """Eight places of ten to 45 dB; an opaque core of 100 µm and droplets stay farther off.

    Developed, it is the developed picture's own copy: within a step of eight bits, grain and the
    coding of the JPEG averaged out over five pixels, in each of the colours.
    """
    counts: dict[Kind, int] = {"speck": 16, "fibre": 1}
    dust = scatter(counts, dusty.SENSOR_MM, 1.5, dusty.SEED)
    recipe = Recipe(seed=61, width_px=dusty.WIDTH_PX, counts=counts, name="test")
    frame = read_frame(write_simulated(recipe, tmp_path, dust)[0])
    spot_map = build_map([frame], MapOptions(sensor_mm=dusty.SENSOR_MM))
    recipe = replace(recipe, seed=5, f_number=11.0, dng=True, name="raw")
    dng, _ = write_simulated(recipe, tmp_path, dust)
    clean, _ = write_simulated(replace(recipe, name="clean"), tmp_path, ())
    source = as_makers_raw(dng, tmp_path / "in" / "p.raw")
    found = pictures_in([source.parent])
    done = patched(Patching(spot_map=spot_map), source, *targets_for(found, tmp_path / "out"))
    assert done.out == str(tmp_path / "out" / "p.dng")
    checked = verify(Path(done.out), source)
    assert checked.same_outside
    assert len(checked.places) >= 6
    before, after, true = (read_picture(p).whole for p in (source, Path(done.out), clean))
    near = [_near(p, before, after, true) for p in checked.places]
    assert sum(n >= 45 for n in near) >= 0.8 * len(near)
    picture = tmp_path / "developed.jpg"
    write_jpeg(picture, _developed(dng), NOTES, quality=98)
    copy = patched(Patching(spot_map=spot_map), picture, tmp_path / "out" / "developed.jpg").out
    assert copy is not None
    off = cv2.blur(_developed(Path(done.out)) - dusty.pixels(Path(copy)).astype(np.float32), (5, 5))
    touched = (dusty.pixels(Path(copy)) != dusty.pixels(picture)).any(axis=2)
    assert np.mean(np.abs(off[touched]) <= 1) >= 0.98
    note = read_note(Path(done.out))
    assert note is not None
    assert note.frame_sha256 == spot_map.frames[0].sha256


NOTES = ExposureNotes(
    camera="Fennick Optical Judge 24",
    f_number=11.0,
    iso=100,
    exposure_s=1.0,
    focal_length_mm=85.0,
    taken_at="2026-09-14T10:00:00",
)


def _developed(path: Path) -> Any:
    """A RAW file's tones as sRGB's curve has them, its colours as the sensor's."""
    with rawpy.imread(str(path)) as raw:
        return raw.postprocess(
            use_camera_wb=True,
            no_auto_bright=True,
            gamma=(2.4, 12.92),
            output_color=rawpy.ColorSpace.raw,
            user_flip=0,
        )


def _near(place: ChangedPlace, before: Any, after: Any, true: Any) -> float:
    """How near the changed photosites of a place are to the true ones, in dB."""
    half = int(place.outer_px / 2) + 1
    y, x = round(place.y_px), round(place.x_px)
    box = np.s_[max(0, y - half) : y + half + 1, max(0, x - half) : x + half + 1]
    changed = before[box] != after[box]
    return dusty.psnr(after[box][changed], true[box][changed], full=16383)


def _light_lost(path: Path) -> float:
    """Sum of a frame's losses on the sensor, in square pixels."""
    spots = build_map([read_frame(path)], MapOptions(sensor_mm=dusty.SENSOR_MM)).spots
    return float(sum(np.pi / 4 * s.particle_px**2 for s in spots if s.kind != "fibre"))


def test_a_busy_picture_is_laid_by_the_others_of_its_lens(run: Patching, tmp_path: Path) -> None:
    lens = Camera(name=dusty.CAMERA.name, width_px=dusty.WIDTH_PX, exit_pupil_mm=200)
    pairs = []
    for i, even in enumerate((0.0, 0.9, 0.9)):
        tones = np.asarray(
            dusty.picture(dusty.dust(), 50 + i, 8.0, even=even, camera=lens), np.uint8
        )
        source = dusty.written(tmp_path / f"{i}.jpg", tones, 8.0)
        pairs.append((source, tmp_path / "out" / source.name))
    done = dict(patch_all(run, pairs))
    first, second = done[0].alignment, done[1].alignment
    assert first is not None
    assert second is not None
    assert abs(first.scale - second.scale) < 0.006


def test_a_folder_is_gone_through_and_copies_never_meet_a_file(tmp_path: Path) -> None:
    dusty.folder_of_pictures(tmp_path / "in" / "deep", 1)
    (tmp_path / "in" / ".hidden.jpg").write_bytes(b"x")
    (tmp_path / "in" / "notes.txt").write_text("x")
    out = tmp_path / "in" / "out"
    found = pictures_in([tmp_path / "in"], leave_out=out)
    assert [str(below) for _, below in found] == ["deep/p0.jpg"]
    [target] = targets_for(found, out)
    assert target == out / "deep" / "p0.jpg"
    target.parent.mkdir(parents=True)
    target.write_text("mine")
    with pytest.raises(BadArgumentError, match="nothing is ever overwritten"):
        targets_for(found, out)
    with pytest.raises(BadArgumentError, match="no pictures"):
        pictures_in([_empty(tmp_path)])
    with pytest.raises(BadArgumentError, match="would both become"):
        targets_for([*found, *found], tmp_path / "other")


def _empty(folder: Path) -> Path:
    (folder / "empty").mkdir()
    return folder / "empty"


def test_a_years_pictures_tell_which_specks_came_and_when(tmp_path: Path, year: Path) -> None:
    specks = dusty.specks_that_came()
    pictures = sorted(year.iterdir())
    found = arrivals_in(pictures, tmp_path / "work", dusty.SENSOR_MM)
    assert found.frames_used == dusty.YEAR_COUNT
    places = [
        (
            p.x_mm / 23.5 * dusty.WIDTH_PX + dusty.WIDTH_PX / 2,
            p.y_mm / 23.5 * dusty.WIDTH_PX + dusty.CAMERA.height_px / 2,
        )
        for p in specks
    ]
    came = (datetime(2026, 3, 1, 10) + timedelta(days=3 * dusty.YEAR_CAME)).isoformat()
    hit = set()
    for spot in found.spots:
        off = [np.hypot(spot.x_px - x, spot.y_px - y) for x, y in places]
        assert min(off) < 25, "a mark where nothing lies"
        hit.add(int(np.argmin(off)))
        assert spot.last_without is not None
        assert spot.last_without < came <= (spot.first_with or "")
        assert spot.first_without_again is None
        assert spot.depth > 0.05
    assert len(hit) >= 3


def test_what_cannot_be_used_is_listed_and_a_clean_year_has_no_marks(tmp_path: Path) -> None:
    dusty.year_of_pictures(tmp_path / "year", 12, came=99)
    pictures = sorted((tmp_path / "year").iterdir())
    tones = np.asarray(dusty.picture((), 1), np.uint8)
    odd = [
        _png(tmp_path / "bare.png", tones),
        dusty.written(tmp_path / "maker.jpg", tones, camera="Other Maker 5"),
        dusty.written(tmp_path / "cut.jpg", np.ascontiguousarray(tones[:, :1500])),
        tmp_path / "none.jpg",
    ]
    found = arrivals_in([*pictures, *odd], tmp_path / "work", dusty.SENSOR_MM)
    assert found.spots == ()
    assert found.frames_used == 12
    why = {Path(s.path).name: s.why for s in found.frames_skipped}
    assert "aperture" in why["bare.png"]
    assert "Other Maker 5" in why["maker.jpg"]
    assert "cut out" in why["cut.jpg"]
    assert "no such file" in why["none.jpg"]
    with pytest.raises(BadArgumentError, match="One picture has no history"):
        arrivals_in(pictures[:1], tmp_path / "work")
