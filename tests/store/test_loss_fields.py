"""A frame's loss comes back from its file as it was, or not at all."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from neatpatch.core.common.loss_field import LossField
from neatpatch.store.loss_fields import read_field, write_field


def field() -> LossField:
    loss = np.random.default_rng(1).normal(0, 0.01, (60, 90)).astype(np.float32)
    loss[20, 30] = 0.97
    dimness = np.linspace(0.9, 1.4, 12, dtype=np.float32).reshape(3, 4)
    return LossField(loss, 4, 0.008, dimness, 18.0, 0.8, 1.5)


def test_it_comes_back_to_a_small_part_of_its_noise(tmp_path: Path) -> None:
    path = tmp_path / "a" / "one.loss.npz"
    write_field(path, field())
    back = read_field(path)
    assert back is not None
    assert np.abs(back.loss - field().loss).max() <= 0.008 / 8
    assert (back.pixel, back.blur_px) == (4, 18.0)
    assert back.noise == pytest.approx(0.008)
    assert back.noise_at(350.0, 230.0) == pytest.approx(0.008 * 1.4, rel=0.01)
    assert [p.name for p in path.parent.iterdir()] == ["one.loss.npz"]


@pytest.mark.parametrize("harm", ["cut", "empty", "words"])
def test_a_damaged_file_tells_nothing(tmp_path: Path, harm: str) -> None:
    path = tmp_path / "one.loss.npz"
    write_field(path, field())
    whole = path.read_bytes()
    path.write_bytes({"cut": whole[: len(whole) // 2], "empty": b"", "words": b"not a file"}[harm])
    assert read_field(path) is None


def test_no_file_tells_nothing(tmp_path: Path) -> None:
    assert read_field(tmp_path / "none.loss.npz") is None


def test_a_new_measurement_is_read_anew(tmp_path: Path) -> None:
    path = tmp_path / "one.loss.npz"
    write_field(path, field())
    first = read_field(path)
    other = LossField(field().loss * 0, 8, 0.004, field().dimness, 9.0, 0.8, 1.5)
    write_field(path, other)
    second = read_field(path)
    assert first is not None
    assert second is not None
    assert (first.pixel, second.pixel) == (4, 8)
