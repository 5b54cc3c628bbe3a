"""Frames of the virtual camera, made once for the run; the application over a fresh folder."""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import pytest
from bench.scoring import Row
from fastapi.testclient import TestClient
from filelock import FileLock
from hypothesis import settings
from xdist.scheduler import LoadScopeScheduling

from neatpatch.api.app import create_app
from neatpatch.core.common.records import SpotMap
from neatpatch.simulation.frames import Recipe, write_simulated
from neatpatch.store import datafolder
from neatpatch.store.database import Database
from neatpatch.store.datafolder import Library
from tests.dusty_pictures import YEAR_CAME, YEAR_COUNT, year_of_pictures
from tests.served import options_for

_TOGETHER = "tests/browser/test_access.py"
"""Its tests share a library that takes long to make."""


class _Scheduling(LoadScopeScheduling):  # type: ignore[misc]
    """Tests go where there is room, but for those that run together in one process."""

    def _split_scope(self, nodeid: str) -> str:
        return _TOGETHER if nodeid.startswith(_TOGETHER) else nodeid


def pytest_xdist_make_scheduler(config: pytest.Config, log: Any) -> _Scheduling:
    return _Scheduling(config, log)


settings.register_profile("repeatable", derandomize=True, deadline=None)
settings.load_profile("repeatable")

_OWN_ID = "UPDATE settings SET value = lower(hex(randomblob(4))) WHERE key = 'library_id'"
SHARED_FRAMES = Path(__file__).parents[2] / "shared" / "frames"
SENSOR = (23.5, 15.6)


def truth_beside(frame: Path) -> dict[str, Any]:
    """The truth written beside a frame."""
    found: dict[str, Any] = json.loads(
        frame.with_name(frame.name.partition(".")[0] + ".truth.json").read_text()
    )
    return found


def rows_of(spot_map: SpotMap) -> Sequence[Row]:
    """A map's spots as rows to be scored; what belongs to the scene is no row."""
    return [
        Row(s.x_px, s.y_px, s.outer_px, s.kind, s.site, s.depth, s.particle_um)
        for s in spot_map.spots
        if s.site != "scene"
    ]


@pytest.fixture(scope="session", autouse=True)
def migrated_once(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """New libraries begin as a copy of one that was migrated, each with an id of its own."""
    template = tmp_path_factory.mktemp("template") / "neatpatch.sqlite3"
    Database(template).migrate()

    class Copied(Database):
        def migrate(self) -> list[str]:
            if self.path.exists():
                return super().migrate()
            shutil.copyfile(template, self.path)
            with self.write(durable=False) as connection:
                connection.execute(_OWN_ID)
            return []

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(datafolder, "Database", Copied)
        yield


@pytest.fixture(scope="session")
def year(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """`YEAR_COUNT` everyday pictures, drawn once for all workers; nobody writes into the folder."""
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if "PYTEST_XDIST_WORKER" in os.environ else base
    folder = shared / "year"
    with FileLock(shared / "year.lock"):
        if not folder.exists():
            year_of_pictures(shared / "year-part", YEAR_COUNT, YEAR_CAME)
            (shared / "year-part").rename(folder)
    return folder


@pytest.fixture(scope="session")
def frames_dir(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Folder for the run's simulated frames."""
    return tmp_path_factory.mktemp("frames")


@pytest.fixture(scope="session")
def dusty_jpeg(frames_dir: Path) -> Path:
    """A 5 MP frame at f/22 with specks, fibres, a droplet and a smear."""
    recipe = Recipe(
        seed=31,
        name="dusty",
        width_px=2800,
        counts={"speck": 24, "fibre": 2, "droplet": 3, "residue": 1},
    )
    return write_simulated(recipe, frames_dir)[0]


@pytest.fixture(scope="session")
def dusty_dng(frames_dir: Path) -> Path:
    """The same dirt as a DNG at f/16."""
    recipe = Recipe(
        seed=31,
        name="dusty-raw",
        width_px=2800,
        f_number=16.0,
        dng=True,
        counts={"speck": 24, "fibre": 2, "droplet": 3, "residue": 1},
    )
    return write_simulated(recipe, frames_dir)[0]


@pytest.fixture(scope="session")
def clean_jpeg(frames_dir: Path) -> Path:
    """A frame of a spotless sensor, hot pixels included."""
    return write_simulated(Recipe(seed=5, name="clean", width_px=2400), frames_dir)[0]


@pytest.fixture(scope="session")
def small_jpeg(frames_dir: Path) -> Path:
    """A small, quick frame with a few specks, for the API and the page."""
    recipe = Recipe(seed=8, name="small", width_px=1500, counts={"speck": 6, "fibre": 1})
    return write_simulated(recipe, frames_dir)[0]


@pytest.fixture(scope="session")
def page(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A stand-in for the built page."""
    folder = tmp_path_factory.mktemp("page")
    (folder / "index.html").write_text("<title>Neat Patch</title>")
    (folder / "assets").mkdir()
    (folder / "assets" / "a.js").write_text("1")
    return folder


@pytest.fixture
def client(tmp_path: Path, page: Path) -> Iterator[TestClient]:
    """A client of the whole application, jobs included."""
    app = create_app(Library(tmp_path / "data"), options_for(page))
    with TestClient(app, base_url="http://localhost") as found:
        yield found
