"""The wheel in an environment of its own, without Node or this checkout, serves the demo."""

from __future__ import annotations

import os
import subprocess
import sys
import sysconfig
import time
import venv
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest
from playwright.sync_api import Page, expect

from neatpatch import __version__

ROOT = Path(__file__).parents[2]


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel's own command. What it depends on is lent by this environment: no network."""
    root = tmp_path_factory.mktemp("installed")
    pip = [sys.executable, "-m", "pip", "--disable-pip-version-check", "-q"]
    build = [*pip, "wheel", "--no-deps", "--no-build-isolation", "-w", str(root), str(ROOT)]
    subprocess.run(build, check=True, cwd=root)
    (wheel,) = root.glob("*.whl")
    venv.create(root / "env")
    python = root / "env" / "bin" / "python"
    packages = subprocess.run(
        [python, "-c", "import sysconfig; print(sysconfig.get_path('purelib'))"],
        check=True,
        capture_output=True,
        text=True,
    ).stdout.strip()
    # A path named in a .pth file has its own .pth files left unread: the checkout stays unseen.
    lent = Path(packages) / "lent.pth"
    lent.write_text(sysconfig.get_path("purelib") + "\n")
    install = [*pip, "--python", str(python), "install", "--no-deps", "--no-index", str(wheel)]
    subprocess.run(install, check=True, cwd=root)
    return root / "env" / "bin" / "neatpatch"


def without_node(home: Path) -> dict[str, str]:
    """An environment in which there is no Node, and nothing of ours."""
    return {"PATH": "/nowhere", "HOME": str(home), "LANG": os.environ.get("LANG", "C.UTF-8")}


@pytest.fixture
def demo_at(installed: Path, tmp_path: Path) -> Iterator[str]:
    process = subprocess.Popen(
        [installed, "demo", f"--data={tmp_path / 'data'}", "--port=0"],
        stderr=subprocess.PIPE,
        text=True,
        cwd=tmp_path,
        env=without_node(tmp_path),
    )
    assert process.stderr is not None
    try:
        line = process.stderr.readline()
        assert "http://" in line, line
        yield line.split("Neat Patch is at ")[1].split("/ ")[0]
    finally:
        process.terminate()
        process.wait(timeout=60)
        process.stderr.close()


def test_it_is_the_wheel_that_runs(installed: Path, tmp_path: Path) -> None:
    def ask(*words: str) -> str:
        return subprocess.run(
            [str(installed.parent / words[0]), *words[1:]],
            check=True,
            capture_output=True,
            text=True,
            cwd=tmp_path,
            env=without_node(tmp_path),
        ).stdout.strip()

    where = ask("python", "-c", "import neatpatch; print(neatpatch.__file__)")
    assert where.startswith(str(installed.parents[1]))
    assert ask("neatpatch", "version") == __version__


def test_its_page_shows_the_demo(demo_at: str, tab: Page) -> None:
    tab.goto(demo_at)
    expect(tab.get_by_role("heading", name="What lies on the sensor?")).to_be_visible()
    while not httpx.get(f"{demo_at}/api/bodies").json()["bodies"]:
        time.sleep(0.2)
    tab.get_by_role("link", name="Cameras", exact=True).click()
    expect(tab.get_by_text("Tarn Meridian S").first).to_be_visible()
    tab.get_by_role("link", name="Kit", exact=True).click()
    expect(tab.get_by_role("heading", name="Kit", exact=True)).to_be_visible()
