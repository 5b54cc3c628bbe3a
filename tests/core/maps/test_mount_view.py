"""Picture, sensor and mount view, in every pose."""

from __future__ import annotations

import pytest

from neatpatch.core.maps.mount_view import (
    POSES,
    Pose,
    aims,
    from_mount,
    mount_size,
    to_mount,
    zone_words,
)

TOP_OF_CAMERA = (0.0, 7.0)
"""The bottom of the picture lies at the top of the camera."""
GRIP = (-11.0, 0.0)
"""The left of the picture lies where the right hand holds the camera."""


@pytest.mark.parametrize(
    ("pose", "top", "grip"),
    [
        ("standing", (0, -7), (-11, 0)),
        ("top_away", (0, -7), (-11, 0)),
        ("top_toward", (0, 7), (11, 0)),
        ("top_right", (7, 0), (0, -11)),
        ("top_left", (-7, 0), (0, 11)),
        ("overhead", (0, -7), (-11, 0)),
        ("overhead_turned", (0, 7), (11, 0)),
    ],
)
def test_where_top_and_grip_are_seen(
    pose: Pose, top: tuple[float, float], grip: tuple[float, float]
) -> None:
    assert to_mount(*TOP_OF_CAMERA, pose) == pytest.approx(top)
    assert to_mount(*GRIP, pose) == pytest.approx(grip)


@pytest.mark.parametrize("pose", POSES)
def test_there_and_back_and_always_mirrored(pose: Pose) -> None:
    assert from_mount(*to_mount(3.0, -2.0, pose), pose) == pytest.approx((3.0, -2.0))
    (ax, ay), (bx, by) = to_mount(1, 0, pose), to_mount(0, 1, pose)
    assert ax * by - ay * bx == pytest.approx(-1.0)


def test_an_upright_camera_swaps_top_and_bottom_but_not_left_and_right() -> None:
    assert to_mount(5.0, 3.0, "standing") == pytest.approx((5.0, -3.0))


def test_a_camera_on_its_side_is_seen_on_its_side() -> None:
    assert mount_size(36, 24, "top_left") == (24, 36)
    assert mount_size(36, 24, "top_away") == (36, 24)


def test_aims_name_the_fullest_zone_first_in_the_words_of_the_view() -> None:
    places = [("s1", -15.0, -9.0), ("s2", -14.0, -10.0), ("s3", 0.0, 0.0)]
    first, second = aims(places, 36, 24, "standing")
    assert first.spots == ("s1", "s2")
    assert first.words == "lower left, near the camera's base and near the grip side"
    assert (first.x_mm, first.y_mm) == pytest.approx((-14.5, 9.5))
    assert second.words == "in the middle"
    turned = aims(places, 36, 24, "top_toward")[0]
    assert turned.words == "upper right, near the camera's base and near the grip side"


def test_nothing_to_aim_at() -> None:
    assert aims([], 36, 24, "standing") == ()
    assert zone_words(0, 1, "standing", grip=False) == "left"
