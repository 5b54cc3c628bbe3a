"""What ships is named with its licence, and nothing ships that must not."""

from __future__ import annotations

from bench import third_party


def test_every_package_that_ships_is_named_with_its_licence() -> None:
    assert third_party.TARGET.read_text("utf-8") == third_party.document(), "run 'make licences'"
    rows = [*third_party.python_packages(), *third_party.page_packages()]
    assert {"fastapi", "numpy", "vue", "primevue"} <= {name.lower() for name, _, _ in rows}
    assert all(licence and "\n" not in licence for _, _, licence in rows)


def test_no_strong_copyleft_ships() -> None:
    assert third_party.strong_copyleft() == []
    strong = third_party._STRONG
    for text in ("GPL-3.0", "AGPL-3.0-only", "GNU General Public License (GPL)"):
        assert strong.search(text)
    for text in ("LGPL-3.0", "GNU Lesser General Public License v3 (LGPLv3)", "MPL-2.0", "MIT"):
        assert not strong.search(text)
