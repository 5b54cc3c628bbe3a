"""The mat as a file: SVG as it is drawn, PDF at the same true size."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Literal

import typst

from neatpatch.core.tray.mat import PAPER_MM, Paper, mat_svg
from neatpatch.core.tray.plan import TrayPlan

MatForm = Literal["pdf", "svg"]
MAT_MEDIA: dict[MatForm, str] = {"pdf": "application/pdf", "svg": "image/svg+xml"}
_PAGE = """#set document(title: sys.inputs.title)
#set text(lang: "en")
#set page(width: {width}mm, height: {height}mm, margin: 0mm)
#image("mat.svg", width: {width}mm, height: {height}mm, alt: sys.inputs.title)
"""


def mat_file(plan: TrayPlan, paper: Paper, form: MatForm) -> bytes:
    """One sheet. Raises `BadArgumentError` where the fields do not fit on it."""
    drawn = mat_svg(plan, paper)
    if form == "svg":
        return drawn.encode()
    width, height = PAPER_MM[paper]
    with tempfile.TemporaryDirectory(prefix="neatpatch-mat-") as name:
        folder = Path(name)
        (folder / "mat.svg").write_text(drawn, encoding="utf-8")
        page = folder / "mat.typ"
        page.write_text(_PAGE.format(width=width, height=height), encoding="utf-8")
        made: bytes = typst.compile(
            page,
            root=folder,
            ignore_system_fonts=True,
            sys_inputs={"title": f"Tray mat for {plan.model}"},
        )
    return made
