"""What each role may do, over every operation there is."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

from neatpatch.api.app import create_app
from neatpatch.api.sharing.policy import may, table
from neatpatch.store.datafolder import Library
from neatpatch.store.devices import Role
from tests.served import options_for

Operation = tuple[str, str]
ROLES: tuple[Role, ...] = ("report", "viewer", "helper", "owner")
UNDONE = re.compile(
    r"/api/(visits/1/(trail/1|hands|tray/steps)|jobs/1|frames/1/search)",
)
"""Deleting these undoes or stops; nothing that was kept is lost."""
THE_OWNERS = ("sharing", "backup", "watched", "export")


@pytest.fixture(scope="module")
def described(tmp_path_factory: pytest.TempPathFactory, page: Path) -> set[Operation]:
    app = create_app(Library(tmp_path_factory.mktemp("policy") / "data"), options_for(page))
    paths = app.openapi()["paths"]
    return {(method.upper(), path) for path, methods in paths.items() for method in methods}


def one(path: str) -> str:
    """A path with a part in each of its places."""
    return re.sub(r"\{[^}]*\}", "1", path)


def test_every_operation_is_named_once_and_no_other(described: set[Operation]) -> None:
    named = set(table())
    assert described - named == set()
    assert named - described == {("GET", "/api/openapi.json")}


def test_each_operation_is_for_its_role_and_those_above_it() -> None:
    for (method, path), least in table().items():
        allowed = [role for role in ROLES if may(role, method, one(path))]
        assert allowed == list(ROLES[ROLES.index(least) :]), (method, path)


def test_a_viewer_reads_and_changes_nothing(described: set[Operation]) -> None:
    for method, path in described:
        assert method == "GET" or not may("viewer", method, one(path)), (method, path)
    assert may("viewer", "GET", "/assets/index.js")
    assert may("viewer", "HEAD", "/api/visits/1")
    assert not may("viewer", "POST", "/assets/index.js")


def test_a_helper_deletes_nothing_and_writes_into_no_folder(described: set[Operation]) -> None:
    for method, path in described:
        if method == "DELETE" and may("helper", method, one(path)):
            assert UNDONE.fullmatch(one(path)), path
    for method in ("POST", "DELETE"):
        assert not may("helper", method, "/api/picture-sets/1/work")
    assert not may("helper", "POST", "/api/picture-sets")
    assert not may("helper", "DELETE", "/api/bodies/1/exposures/1")


def test_who_is_let_in_folders_and_everything_at_once_are_the_owners(
    described: set[Operation],
) -> None:
    private = [o for o in described if o[1].split("/")[2].partition(".")[0] in THE_OWNERS]
    assert len(private) >= 12
    for role in ("viewer", "helper"):
        assert not any(may(role, method, one(path)) for method, path in private)
        assert not may(role, "GET", "/api/picture-sets/demo")
        assert not may(role, "GET", "/trial/api/frames")


@pytest.mark.parametrize("role", ROLES)
def test_what_nobody_thought_of_is_refused_to_all(role: Role) -> None:
    assert not may(role, "POST", "/api/something-new")
    assert not may(role, "GET", "/api/something-new")
    assert not may(role, "GET", "/api/")
    assert not may(role, "PATCH", "/api/visits/1")
    assert not may(role, "DELETE", "/api/visits/1/trail/1/../../2")
    assert not may(role, "POST", "/api/visits/1/steps/")
    assert not may(role, "POST", "/api//visits")
