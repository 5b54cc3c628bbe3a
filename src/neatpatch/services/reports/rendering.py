"""Reports set for the screen (one HTML file) and for paper (PDF, tagged, fonts embedded).

Both are set from the same record by templates beside this file. The PDF is set by Typst, which
reads the record as JSON: texts of the owner are never taken for markup.
"""

from __future__ import annotations

import base64
import tempfile
from functools import cache
from pathlib import Path
from typing import Literal

import jinja2
import typst
from pydantic import BaseModel

TEMPLATES = Path(__file__).parent / "templates"
Form = Literal["pdf", "html"]
MEDIA: dict[Form, str] = {"pdf": "application/pdf", "html": "text/html; charset=utf-8"}


class Sheet(BaseModel):
    """A record to be set, the template's name without its ending, and the pictures it names."""

    template: str
    record: BaseModel
    pictures: dict[str, bytes] = {}
    logo: bytes | None = None


REPORT_POLICY = (
    "default-src 'none'; img-src data:; font-src data:; style-src 'unsafe-inline'; "
    "frame-ancestors 'none'; base-uri 'none'"
)
"""What a report as a page may load: nothing but what is in it."""


def rendered(sheet: Sheet, form: Form) -> bytes:
    """A sheet as a file."""
    return as_pdf(sheet) if form == "pdf" else as_html(sheet).encode()


@cache
def _environment() -> jinja2.Environment:
    return jinja2.Environment(
        loader=jinja2.FileSystemLoader(TEMPLATES),
        autoescape=True,
        trim_blocks=True,
        lstrip_blocks=True,
        undefined=jinja2.StrictUndefined,
    )


def as_html(sheet: Sheet) -> str:
    """One HTML file with everything inside."""
    template = _environment().get_template(f"{sheet.template}.html.j2")

    def inside(name: str | None) -> str:
        data = sheet.pictures.get(name or "")
        return _data_url(data) if data else ""

    return template.render(
        r=sheet.record, picture=inside, logo=_data_url(sheet.logo) if sheet.logo else ""
    )


def _data_url(png: bytes) -> str:
    return f"data:image/png;base64,{base64.b64encode(png).decode()}"


def as_pdf(sheet: Sheet) -> bytes:
    """The same as PDF, tagged for screen readers (PDF/UA-1)."""
    with tempfile.TemporaryDirectory(prefix="neatpatch-report-") as name:
        folder = Path(name)
        for template in TEMPLATES.glob("*.typ"):
            (folder / template.name).write_bytes(template.read_bytes())
        for file, data in sheet.pictures.items():
            (folder / file).write_bytes(data)
        if sheet.logo:
            (folder / "logo.png").write_bytes(sheet.logo)
        (folder / "record.json").write_text(sheet.record.model_dump_json(), encoding="utf-8")
        return _compiled(folder / f"{sheet.template}.typ", logo=bool(sheet.logo))


def _compiled(template: Path, logo: bool) -> bytes:
    """Set a template by the standard; without it where a text holds what the font cannot show.

    The standard refuses such characters (pictures of faces, private signs); a report with an empty
    box in a name is better than none.
    """
    compiler = typst.Compiler(
        template,
        root=template.parent,
        ignore_system_fonts=True,
        sys_inputs={"logo": "yes" if logo else "no"},
    )
    try:
        made = compiler.compile(pdf_standards=["ua-1"])
    except typst.TypstError as error:
        if "could not be displayed" not in str(error):
            raise
        made = compiler.compile()
    assert isinstance(made, bytes)
    return made
