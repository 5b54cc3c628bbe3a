"""The mat: one sheet at true size, with a field for each group, placed as its screws sit.

An SVG whose unit is the millimetre. The camera's outline lies in the middle; groups of its left
side have their fields to the left of it, of its right side to the right, of top, front and inside
above, of bottom and back below, each joined by a line to where its screws sit.
"""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from typing import Literal

from neatpatch.core.common.errors import BadArgumentError
from neatpatch.core.tray.plan import MatField, TrayPlan, fields_of, spread

Paper = Literal["a4", "letter"]
PAPER_MM: dict[Paper, tuple[float, float]] = {"a4": (297.0, 210.0), "letter": (279.4, 215.9)}
SCALE_MM = 100.0
_MARGIN, _GAP, _TITLE = 8.0, 4.0, 14.0
_FIELD_W, _FIELD_H, _SCREW_R = 44.0, 26.0, 2.4
_ROWS = {
    "left": "left", "right": "right", "top": "above", "front": "above", "inside": "above",
    "bottom": "below", "back": "below",
}  # fmt: skip
Box = tuple[float, float, float, float]


def mat_svg(plan: TrayPlan, paper: Paper) -> str:
    """The sheet. Raises `BadArgumentError` where the fields do not fit on it."""
    width, height = PAPER_MM[paper]
    boxes = _boxes(plan, paper)
    left = (width - plan.outline.x_mm) / 2
    top = _TITLE + (height - _TITLE - plan.outline.y_mm) / 2
    parts = [
        _text(_MARGIN, 11, 5.5, f"Tray mat: {_short(plan.model, 40)}"),
        _text(
            width / 2,
            11,
            3.2,
            "Print at 100 %, not fitted to the page. Check the bar with a ruler.",
        ),
        _rect((left, top, plan.outline.x_mm, plan.outline.y_mm), "outline"),
        _text(left, top - 1.5, 3.2, "the camera, as it lies"),
        *(_leader(f, plan, boxes[f.letter], (left, top)) for f in fields_of(plan)),
        *(_field(f, boxes[f.letter]) for f in fields_of(plan)),
        _scale(width, height),
    ]
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}mm" height="{height}mm" '
        f'viewBox="0 0 {width} {height}" font-family="Libertinus Serif, serif">\n'
        f"<title>{escape(f'Tray mat for {plan.model}')}</title>\n"
        f'<rect width="{width}" height="{height}" fill="#fff"/>\n' + "\n".join(parts) + "\n</svg>\n"
    )


def _boxes(plan: TrayPlan, paper: Paper) -> dict[str, Box]:
    width, height = PAPER_MM[paper]
    rows: dict[str, list[MatField]] = {"left": [], "right": [], "above": [], "below": []}
    for f in fields_of(plan):
        rows[_ROWS[f.group.side]].append(f)
    boxes: dict[str, Box] = {}
    beside = (width - plan.outline.x_mm) / 2 - _MARGIN - _GAP
    over = (height - _TITLE - plan.outline.y_mm) / 2 - _GAP
    for name, fields in rows.items():
        if name in ("left", "right"):
            x = _MARGIN if name == "left" else width - _MARGIN - _FIELD_W
            fits = beside >= _FIELD_W and len(fields) * (_FIELD_H + _GAP) <= height - _TITLE - 20
            at = _column(len(fields), x, height)
        else:
            y = _TITLE + 1 if name == "above" else height - _FIELD_H - 14
            fits = over >= _FIELD_H and len(fields) * (_FIELD_W + _GAP) <= width - 2 * _MARGIN
            at = _row(len(fields), y, width)
        if fields and not fits:
            raise BadArgumentError(
                f"The fields of {plan.model} do not fit on one sheet of this paper. Join groups "
                "that share a thread, or spread them over more sides of the camera."
            )
        boxes |= {f.letter: box for f, box in zip(fields, at, strict=True)}
    return boxes


def _column(count: int, x: float, height: float) -> list[Box]:
    used = count * _FIELD_H + (count - 1) * _GAP
    top = _TITLE + (height - _TITLE - used) / 2
    return [(x, top + n * (_FIELD_H + _GAP), _FIELD_W, _FIELD_H) for n in range(count)]


def _row(count: int, y: float, width: float) -> list[Box]:
    used = count * _FIELD_W + (count - 1) * _GAP
    left = (width - used) / 2
    return [(left + n * (_FIELD_W + _GAP), y, _FIELD_W, _FIELD_H) for n in range(count)]


def _leader(field: MatField, plan: TrayPlan, box: Box, at: tuple[float, float]) -> str:
    """Where a group's screws sit, and the line from there to its field."""
    x, y, w, h = box
    sits = spread(field.group, plan.outline)
    middle = (
        at[0] + sum(p.x_mm for p in sits) / len(sits),
        at[1] + sum(p.y_mm for p in sits) / len(sits),
    )
    return "\n".join(
        [
            f'<line x1="{x + w / 2:.2f}" y1="{y + h / 2:.2f}" x2="{middle[0]:.2f}" '
            f'y2="{middle[1]:.2f}" stroke="#999" stroke-width="0.25"/>',
            *(_dot(at[0] + p.x_mm, at[1] + p.y_mm, 0.9) for p in sits),
            *(_text(at[0] + p.x_mm + 1.4, at[1] + p.y_mm + 1, 2.8, field.letter) for p in sits),
        ]
    )


def _field(field: MatField, box: Box) -> str:
    x, y, _, h = box
    group = field.group
    about = " · ".join(t for t in (group.thread, group.driver) if t)
    return "\n".join(
        [
            _rect(box, f"field-{field.letter}"),
            _text(x + 2, y + 6, 5.0, field.letter),
            _text(x + 9, y + 5.6, 3.0, _short(group.name)),
            _text(x + 2, y + h - 2, 2.8, f"{group.count} × {about}" if about else ""),
            *_screws(group.count, box),
        ]
    )


def _screws(count: int, box: Box) -> Sequence[str]:
    """A ring for each screw, to lay it on as it sat."""
    x, y, w, h = box
    each = min(2 * _SCREW_R + 1.0, (w - 4) / min(count, 20))
    rows = -(-count // 20)
    return [
        f'<circle cx="{x + 2 + each * (i % 20 + 0.5):.2f}" '
        f'cy="{y + h / 2 + 1 + (i // 20 - (rows - 1) / 2) * 5:.2f}" '
        f'r="{min(_SCREW_R, each / 2 - 0.2):.2f}" fill="none" stroke="#000" stroke-width="0.25"/>'
        for i in range(count)
    ]


def _scale(width: float, height: float) -> str:
    x, y = width / 2 - SCALE_MM / 2, height - 6
    ticks = "".join(
        f'<path d="M {x + 10 * i:.2f} {y - (3 if i % 5 == 0 else 1.6):.2f} V {y:.2f}"/>'
        for i in range(int(SCALE_MM / 10) + 1)
    )
    return (
        f'<g id="scale" stroke="#000" stroke-width="0.3" fill="none">'
        f'<path id="bar" d="M {x:.2f} {y:.2f} H {x + SCALE_MM:.2f}"/>{ticks}</g>\n'
        + _text(x + SCALE_MM + 3, y, 3.2, "100 mm")
    )


def _rect(box: Box, name: str) -> str:
    x, y, w, h = box
    return (
        f'<rect id="{name}" x="{x:.2f}" y="{y:.2f}" width="{w:.2f}" height="{h:.2f}" rx="2" '
        'fill="#fff" stroke="#000" stroke-width="0.4"/>'
    )


def _dot(x: float, y: float, r: float) -> str:
    return f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{r}" fill="#000"/>'


def _text(x: float, y: float, size: float, words: str) -> str:
    return f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size}" fill="#000">{escape(words)}</text>'


def _short(name: str, most: int = 20) -> str:
    return name if len(name) <= most else name[: most - 1] + "…"
