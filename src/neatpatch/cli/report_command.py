"""What ``report`` writes."""

from __future__ import annotations

from pathlib import Path

import typer

from neatpatch.api.server import data_folder
from neatpatch.core.common.errors import BadArgumentError
from neatpatch.services.reports.rendering import Form, rendered
from neatpatch.services.reports.visit_report import visit_sheet
from neatpatch.store.datafolder import Library

_FORMS: dict[str, Form] = {".pdf": "pdf", ".html": "html", ".htm": "html"}


def write_report(visit: int, out: Path, data: Path | None) -> None:
    """Write a visit's report, beside its name first; nothing half-written is left."""
    form = _FORMS.get(out.suffix.lower())
    if form is None:
        raise BadArgumentError(f"{out}: name a file that ends in .pdf or .html.")
    root = data_folder(data, demo=False)
    if not (root / "neatpatch.sqlite3").is_file():
        raise BadArgumentError(f"{root}: there is no data here. Name the folder with --data.")
    made = rendered(visit_sheet(Library(root), visit), form)
    partial = out.with_name(f".{out.name}.partial")
    try:
        partial.write_bytes(made)
        partial.replace(out)
    finally:
        partial.unlink(missing_ok=True)
    typer.echo(f"{out}: the report of visit {visit}.")
