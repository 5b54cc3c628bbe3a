"""What a frame says of several bodies' sensors at once."""

from __future__ import annotations

import pytest

from neatpatch.core.sensor.lens_correction import Correction
from neatpatch.services.common import fingerprints
from neatpatch.store.fingerprints import StoredReference, as_bytes
from tests.core.sensor.test_fingerprint import frame, printed, shot
from tests.core.sensor.test_lens_correction_search import corrected


def kept(*bodies: int) -> list[StoredReference]:
    return [StoredReference(b, f"r{b}", 1, as_bytes(printed(shot(b, b)))) for b in bodies]


def test_a_frame_of_one_body_is_none_of_the_others() -> None:
    seen = fingerprints.match_sensor(frame(shot(1, 7)), kept(2, 1))
    assert [t.registration.same for t in seen.matches] == [False, True]
    assert [more.body_id for more in seen.improved] == [1]


def test_corrections_are_sought_in_a_few_and_of_the_rest_nothing_is_said(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(fingerprints, "_MOST_SOUGHT", 1)
    seen = fingerprints.match_sensor(frame(shot(9, 7)), kept(2, 3))
    assert [t.registration.same for t in seen.matches] == [False, None]


def test_a_corrected_frame_is_its_bodys_but_does_not_blur_the_reference() -> None:
    own = frame(corrected(shot(1, 7), Correction(1.02, -0.03)))
    seen = fingerprints.match_sensor(own, kept(2, 1))
    assert [t.registration.same for t in seen.matches] == [False, True]
    assert seen.matches[1].registration.lens is not None
    assert seen.improved == ()


def test_a_slight_correction_does_not_blur_the_reference_either() -> None:
    """Without undoing it the frame agrees, but weakly."""
    own = frame(corrected(shot(1, 7), Correction(1.012, -0.02)))
    for references in (kept(1), kept(2, 1)):
        seen = fingerprints.match_sensor(own, references)
        assert seen.matches[-1].registration.same is True
        assert seen.matches[-1].registration.lens is not None
        assert seen.improved == ()


def test_a_reference_that_cannot_be_read_says_nothing() -> None:
    damaged = StoredReference(4, "r4", 1, b"no pattern")
    assert fingerprints.match_sensor(frame(shot(1, 7)), [damaged]).matches == ()
