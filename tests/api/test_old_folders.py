"""Shipped migrations stay as they were; folders of every earlier version open and work."""

from __future__ import annotations

import hashlib
import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
from fastapi.testclient import TestClient

from neatpatch.api.app import create_app
from neatpatch.services.safety.archive import back_up, restore
from neatpatch.services.safety.checking import check
from neatpatch.services.safety.merging import merge
from neatpatch.store.database import StoreError, migration_names, migration_text
from neatpatch.store.datafolder import Library
from neatpatch.store.originals import Originals
from tests.served import assert_problem, options_for

FOLDERS = Path(__file__).parent / "data"
SHIPPED = {
    "0001_frames": "ec3c95dfbe820a6bba67748c3fd555aaae18393a76847cdc8f53159b33f61ea8",
    "0002_visits": "293d4043b2b702971065211b916c76178686277f4d64e0ec7ff462ee11a83ea5",
    "0003_kit_and_jobs": "807820ddad9c990db97fcc9dec3643fb96897443d716960298a320d0bafebb37",
    "0004_kept": "28e48d2725fe049fcc225c194d351fe6d8b1d2887979ccdf3d9b37ae3d9adc2f",
    "0005_fingerprints": "63ae1431d919b3af0b07b988320088ebd4434288a89f1bf5da259a105a8662fa",
    "0006_place_and_truth": "dadf140de7e38e6b12515139a211a24643b284a49d63a0b0fe7f4762457f2eac",
    "0008_pictures": "f2ec1335ba9516aaf0f45898a5ef507bec24bb49ef605e000b8082e5a7b633fa",
    "0009_record": "476339cc63c0e15c9920684101408972e0ae33e595054d26e031f8299041e061",
    "0010_lives": "73612e43919a7744d05a085d0eafeb379e434fdc74d0cbafcce3811128f04b6a",
    "0011_sharing": "77d99649eb192fc23c1cd315fa973be4c181f9e96622146e0589dcf025943459",
    "0012_identity": "2465b109768c909716dc1377f496f30a43b7fc06dd3a7d9a02a09c66ef534bf2",
    "0013_practice": "9a57b460d5f2b31e8c8828c2d21dc01d30fa0c32ba4e974a016bac038225ec7d",
    "0014_found": "02dfd54f03244dab172ef71135d8aec0433288bc591a3fc15a62388d64943d63",
    "0015_exercises": "ac042cfa80c5e8d2116b0c602321524df86c5549781285f7847887a5da9dc636",
    "0016_tray": "48e1017ad5c6d313eed7d66c683c0a616372c320da3dbe2281722d7f581db181",
    "0017_explained": "782756e776ea474d622dfae1fac33d8a618c7b2a2ee1fe68ca462d8275af6f24",
    "0018_removed_frames": "ac3d60e51709d21c26664e9685c9e28492759cce9b20df1f22c5fad860722365",
    "0007_at_home": "8d1c9681b435b00d5370142fe01bffa15cefe79df164702d4dba458a8b201bca",
}
"""SHA-256 of every migration: one that was shipped is never written anew."""
OLD = sorted(p.stem for p in FOLDERS.glob("folder-*.sql"))


@pytest.mark.parametrize("name", migration_names())
def test_a_shipped_migration_is_as_it_was(name: str) -> None:
    assert hashlib.sha256(migration_text(name).encode()).hexdigest() == SHIPPED[name]


def old_folder(name: str, root: Path) -> Path:
    """A data folder as an earlier version left it; the frame's own bytes are not part of it."""
    root.mkdir()
    with closing(sqlite3.connect(root / "neatpatch.sqlite3")) as connection:
        connection.executescript((FOLDERS / f"{name}.sql").read_text("utf-8"))
    return root


def test_folders_of_six_earlier_versions_are_tried() -> None:
    assert len(OLD) == 6


@pytest.mark.long
@pytest.mark.parametrize("name", OLD)
def test_a_folder_of_an_earlier_version_is_checked_backed_up_and_merged(
    name: str, tmp_path: Path
) -> None:
    root = old_folder(name, tmp_path / "old")
    Originals(root / "originals")
    with pytest.raises(StoreError, match="earlier version"):
        check(root)
    back_up(root, tmp_path / "old.zip")
    here = Library(tmp_path / "here")
    merge(tmp_path / "old.zip", here.root, here.database)
    merge(tmp_path / "old.zip", here.root, here.database)
    restore(tmp_path / "old.zip", tmp_path / "restored")
    Library(root)
    for folder in (root, here.root, tmp_path / "restored"):
        found = check(folder)
        assert {f.what for f in found.found if f.lost} <= {"original"}, found
        with Library(folder).database.read() as connection:
            assert connection.execute("SELECT name FROM frames").fetchall()[0][0] == "old.jpg"
            assert connection.execute("SELECT count(*) FROM frames").fetchone()[0] == 1


@pytest.mark.long
@pytest.mark.parametrize("name", OLD)
def test_a_folder_of_an_earlier_version_opens_with_a_backup(name: str, tmp_path: Path) -> None:
    root = old_folder(name, tmp_path / "data")
    library = Library(root)
    assert len(list(root.glob("neatpatch-before-*.sqlite3"))) == 1
    with library.database.read() as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone()[0] == "ok"
        assert connection.execute("PRAGMA foreign_key_check").fetchall() == []
        open_jobs = connection.execute(
            "SELECT frame_id, count(*) AS n FROM jobs WHERE state IN ('queued', 'running') "
            "GROUP BY frame_id"
        ).fetchall()
    assert all(row["n"] == 1 for row in open_jobs)


@pytest.mark.long
@pytest.mark.parametrize("name", OLD)
def test_a_folder_of_an_earlier_version_works(name: str, tmp_path: Path, page: Path) -> None:
    library = Library(old_folder(name, tmp_path / "data"))
    app = create_app(library, options_for(page, workers=0))
    with TestClient(app, base_url="http://localhost") as client:
        archive = client.get("/api/frames").json()
        [frame] = archive["frames"]
        assert archive["total"] == 1
        assert frame["name"] == "old.jpg"
        assert frame["count"] == 4
        assert frame["original"] == "missing"
        detail = client.get(f"/api/frames/{frame['id']}").json()
        assert len(detail["map"]["spots"]) == 4
        assert detail["frame"]["relevant"] == detail["map"]["summary"]["relevant"]
        bodies = client.get("/api/bodies").json()["bodies"]
        if name == "folder-frames":
            assert bodies == []
            return
        assert bodies[0]["body"]["guarantee_until"] is None
        view = client.get(f"/api/visits/{bodies[0]['open_visit_id']}").json()
        assert view["conditions"]["job_on"] is None
        steps = [i["step"]["step"] for i in view["trail"] if i["step"]]
        assert steps == ["air"]
        again = client.post(
            f"/api/visits/{view['id']}/steps", json={"step": "air", "against": "once more"}
        )
        assert again.status_code == 201
        counted = [k["left"] for k in client.get("/api/kit").json()]
        assert counted == ([7] if "kit" in name else [])
        assert client.get("/api/readiness").status_code == 200
        assert client.get("/api/costs").status_code == 200
        assert client.delete(f"/api/frames/{frame['id']}").status_code == 204
        assert_problem(client.get(f"/api/frames/{frame['id']}"), 404, "no such frame")


def test_a_migration_that_breaks_references_is_taken_back(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    library = Library(tmp_path)
    bad = "DELETE FROM bodies;\nINSERT INTO kit_suits VALUES (7, 7);\n"
    names = [*migration_names(), "0099_bad"]
    monkeypatch.setattr("neatpatch.store.database.migration_names", lambda: names)
    monkeypatch.setattr("neatpatch.store.database.migration_text", lambda _name: bad)
    with pytest.raises(Exception, match="lead nowhere"):
        library.database.migrate()
    with library.database.read() as connection:
        assert connection.execute("SELECT count(*) FROM kit_suits").fetchone()[0] == 0
