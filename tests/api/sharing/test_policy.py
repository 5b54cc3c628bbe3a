"""What each role may do, over every operation there is."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from neatpatch.api.app import create_app
from neatpatch.api.sharing.policy import may
from neatpatch.store.datafolder import Library
from tests.served import options_for

SETTINGS = ("settings", "schools", "service", "prices", "letterhead", "backup", "watched")
UNDONE = re.compile(
    r"/api/(visits/1/(trail/1|hands|tray/steps)|bodies/1/exposures/1|jobs/1|frames/1/search"
    r"|picture-sets/1/work)"
)
"""Deleting these undoes or stops; nothing that was kept is lost."""


@pytest.fixture(scope="module")
def operations(tmp_path_factory: pytest.TempPathFactory, page: Path) -> list[tuple[str, str]]:
    app = create_app(Library(tmp_path_factory.mktemp("policy") / "data"), options_for(page))
    return list(_operations(app.openapi()))


def _operations(description: dict[str, dict[str, dict[str, object]]]) -> Iterator[tuple[str, str]]:
    for path, methods in description["paths"].items():
        for method in methods:
            yield method.upper(), re.sub(r"\{[^}]*\}", "1", path)


def test_an_owner_may_do_everything(operations: list[tuple[str, str]]) -> None:
    assert len(operations) > 90
    assert all(may("owner", method, path) for method, path in operations)


def test_a_viewer_reads_and_changes_nothing(operations: list[tuple[str, str]]) -> None:
    for method, path in operations:
        if method != "GET":
            assert not may("viewer", method, path), (method, path)
    assert may("viewer", "GET", "/api/visits/1")
    assert may("viewer", "GET", "/assets/index.js")


def test_a_helper_changes_no_settings_and_deletes_nothing(
    operations: list[tuple[str, str]],
) -> None:
    for method, path in operations:
        part = path.split("/")[2]
        if method != "GET" and part in SETTINGS:
            assert not may("helper", method, path), (method, path)
        if method == "DELETE" and not UNDONE.fullmatch(path):
            assert not may("helper", method, path), path
    assert may("helper", "POST", "/api/visits/1/steps")
    assert may("helper", "POST", "/api/frames")
    assert may("helper", "PUT", "/api/visits/1/hands/air")
    assert may("helper", "DELETE", "/api/visits/1/trail/1")


def test_who_is_let_in_folders_and_everything_at_once_are_the_owners(
    operations: list[tuple[str, str]],
) -> None:
    private = [
        (method, path)
        for method, path in operations
        if path.split("/")[2].partition(".")[0] in ("sharing", "backup", "watched", "export")
    ]
    assert len(private) >= 12
    for method, path in private:
        assert not may("helper", method, path)
        assert not may("viewer", method, path)


def test_what_nobody_thought_of_is_refused() -> None:
    assert not may("helper", "POST", "/api/something-new")
    assert not may("helper", "PATCH", "/api/visits/1")
    assert not may("helper", "DELETE", "/api/visits/1/trail/1/../../2")
    assert not may("helper", "POST", "/api/visits/1/steps/")


def test_a_link_to_a_report_opens_nothing_else(operations: list[tuple[str, str]]) -> None:
    assert not any(may("report", method, path) for method, path in operations)
