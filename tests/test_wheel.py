"""The wheel holds the built page and the migrations, under the one version."""

from __future__ import annotations

import subprocess
import sys
import zipfile
from pathlib import Path

from neatpatch import __version__

ROOT = Path(__file__).parents[1]


def test_the_wheel_holds_the_page(tmp_path: Path) -> None:
    words = ["wheel", "-q", "--no-deps", "--no-build-isolation", "-w", str(tmp_path), str(ROOT)]
    subprocess.run([sys.executable, "-m", "pip", *words], check=True, cwd=tmp_path)
    (wheel,) = tmp_path.glob("*.whl")
    assert wheel.name.startswith(f"neatpatch-{__version__}-")
    names = set(zipfile.ZipFile(wheel).namelist())
    page = ROOT / "src" / "neatpatch" / "api" / "page"
    built = {str(p.relative_to(ROOT / "src")) for p in page.rglob("*") if p.is_file()}
    assert "neatpatch/api/page/index.html" in built
    assert built <= names
    migrations = ROOT / "src" / "neatpatch" / "store" / "migrations"
    assert {f"neatpatch/store/migrations/{p.name}" for p in migrations.glob("*.sql")} <= names
    assert not any(n.startswith(("tests/", "frontend/")) for n in names)
