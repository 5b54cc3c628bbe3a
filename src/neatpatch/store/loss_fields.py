"""Losses of measured frames, kept beside their pictures; made again with every measurement."""

from __future__ import annotations

import io
import os
import zipfile
from functools import lru_cache
from pathlib import Path

import numpy as np

from neatpatch.core.common.loss_field import LossField

SUFFIX = ".loss.npz"
_VERSION = 1
_STEPS = 8
"""To a standard deviation: rounding adds a five-hundredth to it, and files stay small."""
_MOST_BYTES = 200_000_000
"""Unpacked: the largest sensors' take a tenth of it; a bomb takes more."""
_MOST_KEPT = 4
"""A comparison needs two; each takes some megabytes."""


def write_field(path: Path, field: LossField) -> None:
    """Write a field as one file, which appears only when complete."""
    step = max(field.noise / _STEPS, 2 / np.iinfo(np.int16).max)
    out = io.BytesIO()
    np.savez_compressed(
        out,
        version=_VERSION,
        loss=np.round(np.clip(field.loss, -2, 2) / step).astype(np.int16),
        step=step,
        pixel=field.pixel,
        noise=field.noise,
        dimness=field.dimness.astype(np.float16),
        optics=np.array([field.blur_px, field.softness_px, field.wave_px]),
    )
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_name(f"{path.name}.{os.getpid()}.tmp")
    try:
        partial.write_bytes(out.getvalue())
        partial.replace(path)
    finally:
        partial.unlink(missing_ok=True)


def read_field(path: Path) -> LossField | None:
    """What `write_field` wrote; None where there is none, of another version, or damaged."""
    try:
        written = path.stat().st_mtime_ns
    except OSError:
        return None
    return _read(path, written)


@lru_cache(maxsize=_MOST_KEPT)
def _read(path: Path, _written: int) -> LossField | None:
    try:
        data = path.read_bytes()
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            if sum(part.file_size for part in packed.infolist()) > _MOST_BYTES:
                return None
        with np.load(io.BytesIO(data), allow_pickle=False) as parts:
            if int(parts["version"]) != _VERSION:
                return None
            blur, softness, wave = (float(v) for v in parts["optics"])
            return LossField(
                loss=parts["loss"].astype(np.float32) * np.float32(parts["step"]),
                pixel=int(parts["pixel"]),
                noise=float(parts["noise"]),
                dimness=parts["dimness"].astype(np.float32),
                blur_px=blur,
                softness_px=softness,
                wave_px=wave,
            )
    except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile):
        return None
