"""Another renderer's frames, drawn by wave optics: how well the dust in them is measured.

They hold what ours do not: clear things, clusters, tide marks, dust inside the filter.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from bench.frames import Case, wave_cases
from bench.scoring import Truth, pair_up, rows_of, score
from neatpatch.core.common.records import SpotMap
from neatpatch.core.maps.prediction import predict
from neatpatch.core.measure.map_building import MapOptions, build_map
from neatpatch.images.read import read_frame

LEAST_SNR, PLAIN_SNR, PREDICTED_SNR = 8.0, 20.0, 20.0
_HERE, _THERE, _THERE_F = "wave-f22", "wave-f22-at-f8", 8.0
_SMALL_UM = (10.0, 25.0)


@dataclass
class Figures:
    """What is gathered over the frames; ratios are ours over the truth."""

    found: list[bool] = field(default_factory=list)
    found_plain: list[bool] = field(default_factory=list)
    false: list[int] = field(default_factory=list)
    more_rows: int = 0
    heights: list[float] = field(default_factory=list)
    sizes: list[float] = field(default_factory=list)
    inside: list[bool] = field(default_factory=list)


def report() -> int:
    """Print the figures; gives how many were missed. Nothing where the frames are not here."""
    cases = {case.name: case for case in wave_cases()}
    if not cases:
        return 0
    maps = {name: _map(case) for name, case in cases.items()}
    figures = Figures()
    for name, case in cases.items():
        _add(figures, case, maps[name])
    ratios = [abs(h - 1) for h in figures.heights]
    depths = list(_predicted(maps[_HERE], cases[_HERE], cases[_THERE]))
    lines = [
        ("spots of snr > 8 found", float(np.mean(figures.found)), 0.97, True),
        ("... of snr > 20", float(np.mean(figures.found_plain)), 0.99, True),
        ("false rows a frame", float(np.mean(figures.false)), 0.3, False),
        ("height, error in the middle", float(np.median(ratios)), 0.03, False),
        ("height, worst error", max(ratios), 0.06, False),
        ("particles of 10 to 25 um, median off", abs(_middle(figures.sizes) - 1), 0.05, False),
        ("depth f/22 to f/8, median off", abs(_middle(depths) - 1), 0.08, False),
        ("inside the filter rightly told", float(np.mean(figures.inside)), 0.99, True),
    ]
    print(f"\n| {len(cases)} frames of another renderer, by wave optics | reached | wanted | |")
    print("|---|---|---|---|")
    missed = 0
    for name, value, limit, at_least in lines:
        good = value >= limit if at_least else value <= limit
        missed += not good
        sign = "≥" if at_least else "≤"
        print(f"| {name} | {value:.3g} | {sign} {limit:g} | {'' if good else 'MISSED'} |")
    print(f"\nRows beyond one for each thing: {figures.more_rows}.")
    return missed


def _map(case: Case) -> SpotMap:
    return build_map(read_frame(case.path), MapOptions(sensor_mm=case.sensor_mm))


def _middle(ratios: list[float]) -> float:
    return float(np.median(ratios))


def _add(figures: Figures, case: Case, found: SpotMap) -> None:
    truths = case.truth["spots"]
    pairs = dict(pair_up(truths, rows_of(found)))
    total = score(truths, rows_of(found))
    figures.false.append(total.false)
    figures.more_rows += total.fragments
    if found.optics.height_source == "fitted":
        figures.heights.append((found.optics.height_mm or 0) / case.truth["stack_mm"])
    spots = [s for s in found.spots if s.site != "scene"]
    for i, truth in enumerate(truths):
        if truth["snr"] > LEAST_SNR:
            figures.found.append(i in pairs)
        if truth["snr"] > PLAIN_SNR:
            figures.found_plain.append(i in pairs)
        if i not in pairs:
            continue
        spot = spots[pairs[i]]
        if _is_speck(truth) and truth["snr"] > PLAIN_SNR:
            figures.inside.append(spot.inside_filter == truth["inner"])
            low, high = _SMALL_UM
            if low <= truth["opaque_um"] <= high and truth["made_of"] == "speck":
                figures.sizes.append((spot.particle_um or 0) / truth["opaque_um"])


def _is_speck(truth: Truth) -> bool:
    return bool(truth["kind"] == "speck" and truth["made_of"] != "cluster")


def _predicted(found: SpotMap, here: Case, there: Case) -> Iterator[float]:
    """Depths told at the other aperture over the true ones, of specks, flakes and fibres."""
    told = {s.id: s.depth for s in predict(found, _THERE_F).spots}
    truly = {t["id"]: t["peak"] for t in there.truth["spots"]}
    spots = [s for s in found.spots if s.site != "scene"]
    for i, j in pair_up(here.truth["spots"], rows_of(found)):
        truth = here.truth["spots"][i]
        opaque = truth["made_of"] in ("speck", "flake", "fibre")
        if opaque and truth["snr"] > PREDICTED_SNR and truth["id"] in truly:
            yield told[spots[j].id] / truly[truth["id"]]
