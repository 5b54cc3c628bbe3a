"""Reports set and read back."""

from __future__ import annotations

import io
import re
from pathlib import Path
from typing import Any

import pytest
from PIL import Image
from pypdf import PdfReader

from neatpatch.core.common.errors import BadArgumentError, NotThereError
from neatpatch.core.reports.visit_report import Letterhead
from neatpatch.core.visit.body import Body, VisitConditions
from neatpatch.core.visit.trail import StepUse
from neatpatch.services.reports.letterhead import (
    keep_letterhead,
    keep_logo,
    kept_letterhead,
    printable_logo,
)
from neatpatch.services.reports.rendering import Sheet, as_html, as_pdf
from neatpatch.services.reports.visit_report import visit_sheet
from neatpatch.store import bodies, maps, visits
from neatpatch.store import frames as frame_rows
from neatpatch.store.datafolder import Library
from neatpatch.store.frames import NewFrame
from tests.core.made_maps import spot, spot_map

NAME = 'Study & <b>Sons</b> #set $x$ _a_ \\ "q"'
OLD = [spot(f"s{i}", 300 + 400 * i, 300 + 150 * i) for i in range(6)]


def png(size: tuple[int, int] = (40, 20), mode: str = "RGBA") -> bytes:
    out = io.BytesIO()
    Image.new(mode, size, (255, 0, 0, 0) if mode == "RGBA" else "red").save(out, "PNG")
    return out.getvalue()


@pytest.fixture
def library(tmp_path: Path) -> Library:
    return Library(tmp_path / "data")


@pytest.fixture
def visit(library: Library) -> int:
    """A visit with a frame, a step and a better frame, under awkward names."""
    with library.database.write() as c:
        body = bodies.add_body(
            c, Body(name=NAME, sensor_mm=(36, 24), works_at=(16,), serial="41-7")
        )
        visit_id = visits.open_visit(
            c, body, VisitConditions(why_now="Spots"), "2026-03-04T09:00:00"
        )
        for number, spots in ((1, OLD), (2, OLD[4:])):
            new = NewFrame(sha256=str(number) * 64, size=9, name=f"{number}.jpg", source="upload")
            frame, _ = frame_rows.add_frame(c, new)
            maps.save_map(c, frame, spot_map(*spots), "1")
            visits.add_frame_entry(c, visit_id, frame)
            if number == 1:
                visits.add_step_entry(c, visit_id, "air", StepUse(), who="Ada")
        keep_letterhead(c, Letterhead(name=NAME, address="Marsh Lane 3\nTide", paper="letter"))
        keep_logo(c, printable_logo(png()))
    return visit_id


def read(pdf: bytes) -> tuple[Any, str]:
    reader = PdfReader(io.BytesIO(pdf))
    return reader, "\n".join(page.extract_text() for page in reader.pages)


def test_a_visit_reads_the_same_on_paper_and_as_a_page(library: Library, visit: int) -> None:
    sheet = visit_sheet(library, visit)
    html, (reader, text) = as_html(sheet), read(as_pdf(sheet))
    assert 1 <= len(reader.pages) <= 2
    for words in (
        "Sensor report",
        "41-7",
        "Marsh Lane 3",
        "4 of 6 spots removed, 2 stayed",
        "by Ada",
    ):
        assert words in html
        assert words in text
    assert "Study & <b>Sons</b> #set $x$ _a_" in " ".join(text.split())
    assert "<b>Sons</b>" not in html
    assert "&lt;b&gt;Sons" in html


def test_what_the_font_cannot_show_stops_no_report(library: Library, visit: int) -> None:
    with library.database.write() as c:
        c.execute("UPDATE bodies SET name = ?", ("Studio \U000c1254 \U0001f600",))
    reader, text = read(as_pdf(visit_sheet(library, visit)))
    assert "Sensor report" in text
    assert str(reader.trailer["/Root"]["/Lang"]).startswith("en")


def test_the_paper_is_as_chosen_tagged_and_carries_its_fonts(library: Library, visit: int) -> None:
    reader, _ = read(as_pdf(visit_sheet(library, visit)))
    page = reader.pages[0]
    assert [round(float(v)) for v in page.mediabox[2:]] == [612, 792]
    assert reader.trailer["/Root"]["/MarkInfo"]["/Marked"]
    assert str(reader.trailer["/Root"]["/Lang"]).startswith("en")
    fonts = [f.get_object() for f in page["/Resources"]["/Font"].values()]
    assert fonts
    for font in fonts:
        inner = font["/DescendantFonts"][0].get_object() if "/DescendantFonts" in font else font
        assert {"/FontFile", "/FontFile2", "/FontFile3"} & set(inner["/FontDescriptor"])


def test_the_maps_are_vectors(library: Library, visit: int) -> None:
    sheet = visit_sheet(library, visit)
    assert len(re.findall("<svg", as_html(sheet))) == 2
    bare = sheet.model_copy(update={"logo": None})
    reader, _ = read(as_pdf(bare))
    images = [i for page in reader.pages for i in page.images]
    assert images == []


def test_a_visit_without_a_fit_frame_says_so(library: Library) -> None:
    with library.database.write() as c:
        body = bodies.add_body(c, Body(name="Bare", sensor_mm=(36, 24), works_at=(16,)))
        visit_id = visits.open_visit(c, body, VisitConditions())
    sheet = visit_sheet(library, visit_id)
    for words in (as_html(sheet), read(as_pdf(sheet))[1]):
        assert "No frame that is fit to judge by" in words
    with pytest.raises(NotThereError):
        visit_sheet(library, 999)


@pytest.mark.parametrize(
    "data", [b"", b"GIF89a", b"\x89PNG\r\n\x1a\nbroken", b"x" * 5_000_000], ids=str.__class__
)
def test_what_is_no_logo_is_refused(data: bytes) -> None:
    with pytest.raises(BadArgumentError, match="logo"):
        printable_logo(data)


def test_a_logo_is_put_on_white_and_made_small(library: Library) -> None:
    kept = Image.open(io.BytesIO(printable_logo(png((2400, 300)))))
    assert kept.size == (900, 113)
    assert kept.getpixel((3, 3)) == (255, 255, 255)
    with library.database.write() as c:
        keep_logo(c, None)
        assert kept_letterhead(c) == (Letterhead(), None)


def test_a_job_fits_one_page(library: Library) -> None:
    from neatpatch.core.kit.readiness import BodyReady, JobReady
    from neatpatch.core.reports.job_report import job_report

    ready = JobReady.model_validate(
        {
            "job": {"id": 1, "name": "Tides", "starts_on": "2026-12-03"},
            "days": 6,
            "state": "act",
            "bodies": [
                BodyReady(body_id=i, name=f"Stand {i}", state="look", words="Shoot a test frame.",
                          open_visit_id=None)
                for i in range(12)
            ],
            "kit": [],
            "service": "",
            "service_fits": None,
        }
    )  # fmt: skip
    record = job_report(ready, {}, Letterhead(), "27 Nov 2026")
    sheet = Sheet(template="job", record=record)
    reader, text = read(as_pdf(sheet))
    assert len(reader.pages) == 1
    assert "Something to do: 0 of 12 cameras ready" in text
    assert "Stand 11" in as_html(sheet)
