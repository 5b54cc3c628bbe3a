"""Frames of one made-up body and its neighbour, put into a served library through its API."""

from __future__ import annotations

import time
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import httpx
import numpy as np

from neatpatch.simulation import Camera, Target, expose, scatter
from neatpatch.simulation.camera import developed
from neatpatch.simulation.frames import write_picture
from neatpatch.simulation.scenes import Scene
from tests import dusty_pictures as dusty
from tests.conditions import OWN_HANDS

CAMERA = Camera(name="Bench body A", width_px=3000, fixed_pattern=0.003)
BODY = {
    "name": "Gallery A",
    "access": "mirrorless",
    "sensor_mm": [23.5, 15.6],
    "stabilised": False,
    "self_clean": True,
    "works_at": [8, 16],
}


@dataclass(frozen=True)
class Retests:
    """A visit, and the frames in it by name; the last two lie outside it."""

    visit: int
    frames: dict[str, int]


def shoot_retests(url: str, folder: Path) -> Retests:
    """Before, a cropped retest and another body's frame on a visit; a wall and a turned frame."""
    dirt = scatter({"speck": 24, "fibre": 2, "droplet": 3}, CAMERA.sensor_mm, 1.5, 5)
    later = developed(
        expose(replace(CAMERA, exit_pupil_mm=95), [p for i, p in enumerate(dirt) if i % 2]).mosaic
    )
    strange = scatter({"speck": 18}, CAMERA.sensor_mm, 1.5, 9)
    wall = Target(scene=Scene(kind="wall", amplitude=0.03, size_px=7))
    pictures = {
        "before": developed(expose(CAMERA, dirt, seed=2).mosaic),
        "retest-cropped": later[250:1750, 400:2700],
        "of-another-body": developed(
            expose(replace(CAMERA, name="Bench body B"), strange, seed=3).mosaic
        ),
        "plaster-wall": developed(expose(CAMERA, dirt, seed=4, target=wall).mosaic),
        "turned": np.rot90(later),
    }
    with httpx.Client(base_url=url, headers={"origin": url}, timeout=300) as client:
        body = client.post("/api/bodies", json=BODY).json()["id"]
        visit = client.post("/api/visits", json={"body_id": body}).json()["id"]
        frames: dict[str, int] = {}
        for name, picture in pictures.items():
            path = write_picture(folder / f"{name}.jpg", picture)
            on = {"visit": visit} if len(frames) < 3 else {}
            frames[name] = _taken_in(client, path, on)
            if name == "before":
                client.post(f"/api/visits/{visit}/steps", json={"step": "auto_clean"})
    return Retests(visit, frames)


def _taken_in(client: httpx.Client, path: Path, on: dict[str, int]) -> int:
    answer = client.post("/api/frames", params={"name": path.name, **on}, content=path.read_bytes())
    job = answer.json()["job"]["id"]
    while client.get(f"/api/jobs/{job}").json()["state"] in ("queued", "running"):
        time.sleep(0.1)
    return int(answer.json()["frame"]["id"])


@dataclass(frozen=True)
class Stand:
    """Where one stands before a wall with marks, and how far they lie from where they first lay."""

    place: int
    marks_mm: float = 0.0


_PLAIN_UM = 20.0
"""Smaller ones are seen in one frame and not in the next."""


class PlaceVisit:
    """A visit of a body before a wall whose marks look like dust; frames are added one by one."""

    def __init__(self, url: str, folder: Path, **body: object) -> None:
        self._url, self._folder, self._turn = url, folder, 0
        self.sets: tuple[int, ...] = ()
        self._dust = scatter({"speck": 10}, CAMERA.sensor_mm, 1.5, 4)
        wall = scatter({"speck": 7}, CAMERA.sensor_mm, 1.5, 9)
        self._wall = [replace(p, size_um=max(p.size_um, _PLAIN_UM)) for p in wall]
        self._camera = replace(CAMERA, name="Bench body C", width_px=1600)
        known = {**BODY, "name": "Gallery C", **body}
        with self._client() as client:
            self.body = client.post("/api/bodies", json=known).json()["id"]
            client.post("/api/kit", json={"item": {"item": "bulb_blower"}})
            begun = {"body_id": self.body, "conditions": OWN_HANDS.model_dump(mode="json")}
            self.visit = client.post("/api/visits", json=begun).json()["id"]

    def _client(self) -> httpx.Client:
        return httpx.Client(base_url=self._url, headers={"origin": self._url}, timeout=300)

    def shoot(self, stand: Stand) -> None:
        """One more frame from there."""
        self._turn += 1
        wall = [
            replace(p, x_mm=p.x_mm + stand.marks_mm, y_mm=p.y_mm - stand.marks_mm / 2)
            for p in self._wall
        ]
        shot = expose(self._camera, [*self._dust, *wall], seed=self._turn, target_seed=stand.place)
        path = write_picture(self._folder / f"wall-{self._turn}.jpg", developed(shot.mosaic))
        with self._client() as client:
            _taken_in(client, path, {"visit": self.visit})

    def log(self, step: str) -> None:
        """A step that was done."""
        with self._client() as client:
            client.post(f"/api/visits/{self.visit}/steps", json={"step": step, "against": "done"})

    def look_through(self, folder: Path) -> None:
        """Two everyday pictures of the body, looked through for patching and for when dust came."""
        for i in range(2):
            tones = dusty.picture(self._dust, 700 + i, even=0.7, camera=self._camera)
            dusty.written(
                folder / f"p{i}.jpg", np.asarray(tones, np.uint8), camera="Fennick Optical Judge"
            )
        with self._client() as client:
            maps = client.get("/api/picture-sets/maps", params={"body_id": self.body}).json()
            wanted = {"body_id": self.body, "folder": str(folder)}
            self.sets = tuple(
                _settled(client, client.post("/api/picture-sets", json={**wanted, **how}).json())
                for how in ({"frame_id": maps[-1]["frame_id"]}, {})
            )


def _settled(client: httpx.Client, begun: dict[str, Any]) -> int:
    while client.get(f"/api/picture-sets/{begun['id']}").json()["state"] in ("waiting", "working"):
        time.sleep(0.1)
    return int(begun["id"])
