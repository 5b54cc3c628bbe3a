"""Draws docs/shadow-depth.svg: how much deeper than geometry a speck's shadow is, by its size."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from neatpatch.core.common import optics

HEIGHT_MM = 2.1
STOPS = (22.0, 11.0, 5.6)
DASHES = ("", "7 4", "2 4")
SIZES_UM = np.geomspace(4.0, 100.0, 60)
_LEFT, _TOP, _WIDE, _HIGH = 60.0, 20.0, 460.0, 260.0
_MOST = 3.0
_SOFTNESS_UM = 2.0


def _x(size_um: float) -> float:
    share = np.log(size_um / SIZES_UM[0]) / np.log(SIZES_UM[-1] / SIZES_UM[0])
    return float(_LEFT + _WIDE * share)


def _y(ratio: float) -> float:
    return _TOP + _HIGH * (1 - ratio / _MOST)


def _curve(stop: float, dash: str) -> str:
    blur = optics.blur_um(HEIGHT_MM, stop)
    points = []
    for size in SIZES_UM:
        depth = optics.predicted_depth(float(size), blur, _SOFTNESS_UM, optics.wave_um(stop))
        ratio = depth / optics.central_depth(float(size), blur)
        points.append(f"{_x(float(size)):.1f},{_y(ratio):.1f}")
    return (
        f'<polyline fill="none" stroke="#222" stroke-width="1.8" stroke-dasharray="{dash}" '
        f'points="{" ".join(points)}"/>'
    )


def _text(x: float, y: float, words: str, anchor: str = "middle") -> str:
    return f'<text x="{x:.0f}" y="{y:.0f}" text-anchor="{anchor}">{words}</text>'


def _key(n: int, stop: float, dash: str) -> str:
    y = _TOP + 14 + 20 * n
    line = f'<path d="M400 {y}h36" stroke="#222" stroke-width="1.8" stroke-dasharray="{dash}"/>'
    return line + _text(444, y + 4, f"f/{stop:g}", "start")


def drawing() -> str:
    """The plot as SVG."""
    parts = [
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 540 340" role="img" '
        'font-family="sans-serif" font-size="12">',
        "<title>Peak depth of an opaque speck's shadow over that of its geometry</title>",
        '<rect width="540" height="340" fill="#fff"/>',
        f'<path d="M{_LEFT} {_TOP}v{_HIGH}h{_WIDE}" fill="none" stroke="#222"/>',
    ]
    for ratio in (0.0, 1.0, 2.0, 3.0):
        parts.append(_text(_LEFT - 8, _y(ratio) + 4, f"{ratio:g}", "end"))
        parts.append(f'<path d="M{_LEFT} {_y(ratio):.1f}h{_WIDE}" stroke="#ddd"/>')
    parts += [_text(_x(s), _TOP + _HIGH + 18, f"{s}") for s in (5, 10, 20, 40, 80)]
    parts.append(_text(_LEFT + _WIDE / 2, _TOP + _HIGH + 40, "diameter of the speck, µm"))
    parts.append(_text(_LEFT, _TOP - 7, "peak depth over geometry's, glass 2.1 mm high", "start"))
    for n, (stop, dash) in enumerate(zip(STOPS, DASHES, strict=True)):
        parts += [_curve(stop, dash), _key(n, stop, dash)]
    return "\n".join([*parts, "</svg>", ""])


if __name__ == "__main__":
    Path("docs/shadow-depth.svg").write_text(drawing(), "utf-8")
