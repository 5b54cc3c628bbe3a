"""From a folder of everyday pictures to the marks that keep their place, and their dates.

What each picture says of dust is kept in a file of its own below ``workplace``, so that a search
that was stopped goes on. All that follows reads those files one after the other, so that memory
does not grow with their number.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from neatpatch.core.arrivals.dating import MarkDates, PictureScore, date_mark
from neatpatch.core.arrivals.depth import depth_in, usual_depth
from neatpatch.core.arrivals.lenses import align_lens, place_under, to_reference, turn_of
from neatpatch.core.arrivals.marks import FEW_SCENES, Mark, marks_in, merged
from neatpatch.core.arrivals.picture_scores import GRID_PX, lens_at, on_grid
from neatpatch.core.arrivals.records import Arrivals, ArrivedSpot, ShownIn
from neatpatch.core.arrivals.scenes import scenes_of
from neatpatch.core.arrivals.stacks import Runs, Stack
from neatpatch.core.common.errors import BadArgumentError, sentence
from neatpatch.core.compare.alignment import Alignment
from neatpatch.core.pictures.skipped import SkippedPicture
from neatpatch.core.sensor.placement import turned
from neatpatch.images.pictures import read_glance
from neatpatch.services.pictures.reading import (
    ReadPicture,
    Report,
    cached_scores,
    facts_of,
    grid_of,
    of_one_camera,
    read_all,
)

Plane = NDArray[np.float32]

_CANDIDATE, _REFERENCE = 6.0, 5.0
"""Standard deviations of a stack that make a candidate, and a mark to lay lenses by."""
_MOST_CANDIDATES = 400
_LEAST_ODDS = 14.0
_LEAST_SHARE = 0.6
"""Of the pictures that could have shown a mark during its stay, so many must show it."""
_FILMSTRIP = 12
_TELL_DEPTH, _LIGHTS_KEPT = 5, 24


def arrivals_in(
    pictures: Sequence[Path],
    workplace: Path,
    sensor_mm: tuple[float, float] | None = None,
    report: Report = lambda done, total, what: None,
) -> Arrivals:
    """Find and date the marks. Bad pictures are listed as skipped; none usable gives no spots.

    Raises `BadArgumentError` where fewer than two pictures are given.
    """
    if len(pictures) < 2:
        raise BadArgumentError("One picture has no history. Give a folder of at least two.")
    facts, skipped = facts_of(pictures, report)
    facts, odd, whole = of_one_camera(facts)
    skipped += odd
    if len(facts) < 2:
        return Arrivals(spots=(), frames_used=0, frames_skipped=tuple(skipped))
    size = sensor_mm or next((f.sensor_mm for f in facts if f.sensor_mm), None)
    reads = read_all(facts, workplace, whole, size, report)
    skipped += [SkippedPicture(path=r.path, why=sentence(r.why)) for r in reads if r.why]
    used = sorted((r for r in reads if not r.why), key=lambda r: (r.facts.taken_at or "", r.path))
    search = _Search(used, whole, size, report)
    spots, untold = search.run()
    skipped += untold
    return Arrivals(
        spots=tuple(spots),
        frames_used=len(used) - len(untold),
        frames_skipped=tuple(skipped),
        width_px=whole[1],
        height_px=whole[0],
        camera=facts[0].camera,
        sensor_mm=size,
        f_number=darkest_of(used) if used else None,
    )


def tidy_workplace(workplace: Path) -> None:
    """Remove what the pictures said, once it is no longer needed."""
    for kept in workplace.glob("*.npz"):
        kept.unlink(missing_ok=True)


def darkest_of(reads: Sequence[ReadPicture]) -> float:
    """The largest f-number among the pictures."""
    return max(r.facts.f_number or 1.0 for r in reads)


class _Search:
    """The passes over what the pictures say."""

    def __init__(
        self,
        reads: Sequence[ReadPicture],
        whole: tuple[int, int],
        sensor_mm: tuple[float, float] | None,
        report: Report,
    ) -> None:
        self._reads, self._whole, self._told = reads, whole, report
        self._width_mm = max(sensor_mm) if sensor_mm else None
        self._grid = grid_of(whole)
        glances = [r.glance for r in reads if r.glance is not None]
        self._scenes = scenes_of(glances)
        sizes = Counter(self._scenes)
        self._voices = [1 / sizes[s] for s in self._scenes]
        self._turns: list[int | None] = [self._usual_turn(r) for r in reads]
        self._lenses: dict[int, Alignment | None] = {}
        self._lights: dict[int, Plane] = {}

    def run(self) -> tuple[list[ArrivedSpot], list[SkippedPicture]]:
        marks = self._lay_lenses()
        self._find_turns(marks)
        candidates = self._candidates()
        return self._dated(candidates), [
            SkippedPicture(path=r.path, why="It is turned, and shows too little to tell which way.")
            for r, turn in zip(self._reads, self._turns, strict=True)
            if turn is None
        ]

    def _usual_turn(self, read: ReadPicture) -> int | None:
        """0 for pictures that lie as the sensor does; None for those that are turned somehow."""
        lies = read.facts.width_px >= read.facts.height_px
        return 0 if lies == (self._grid[1] >= self._grid[0]) else None

    def _lens(self, index: int) -> int:
        """Focal length in steps of some 3 %: pictures of one step bend alike."""
        focal = self._reads[index].facts.focal_length_mm
        return round(np.log(focal) / 0.03) if focal else -1

    def _planes(self, index: int, turn: int) -> tuple[Plane, Plane]:
        kept = self._reads[index].kept
        assert kept is not None
        scores = cached_scores(kept)
        return tuple(np.ascontiguousarray(np.rot90(p, -turn)) for p in (scores.z(), scores.q()))  # type: ignore[return-value]

    def _lay_lenses(self) -> list[Mark]:
        """Stack each lens by itself, and lay all on the one with the most to say."""
        groups: dict[int, list[int]] = defaultdict(list)
        for index, turn in enumerate(self._turns):
            if turn is not None:
                groups[self._lens(index)].append(index)
        stacks: dict[int, Plane] = {}
        best, most = None, -1.0
        for lens, members in groups.items():
            stack = Stack.empty(self._grid)
            for index in members:
                stack.add(*self._planes(index, 0), self._voices[index])
            stacks[lens] = stack.z().astype(np.float32)
            if float(stack.weight.mean()) > most:
                best, most = lens, float(stack.weight.mean())
            self._told(len(stacks), len(groups), "lenses")
        if best is None:
            return []
        marks = marks_in(stacks[best], _REFERENCE)[:60]
        for lens, z in stacks.items():
            self._lenses[lens] = None if lens == best else align_lens(marks, z)
        return marks

    def _find_turns(self, marks: Sequence[Mark]) -> None:
        for index, turn in enumerate(self._turns):
            usual = turn
            turns = (0, 2) if turn is not None else (1, 3)
            planes = {t: self._planes(index, t) for t in turns}
            self._turns[index] = turn_of(
                {t: p[0] for t, p in planes.items()},
                {t: p[1] for t, p in planes.items()},
                marks,
                self._lenses.get(self._lens(index)),
                usual,
            )

    def _candidates(self) -> list[Mark]:
        runs, found = Runs(self._grid), list[Mark]()
        for index, turn in enumerate(self._turns):
            if turn is None:
                continue
            alignment = self._lenses.get(self._lens(index))
            z, q = (to_reference(p, alignment) for p in self._planes(index, turn))
            for stack in runs.add(z, q, self._voices[index]):
                found += marks_in(stack.z(), _CANDIDATE)
            self._told(index + 1, len(self._reads), "added up")
        for stack in runs.rest():
            if stack.count >= FEW_SCENES:
                found += marks_in(stack.z(), _CANDIDATE)
        return merged(found)[:_MOST_CANDIDATES]

    def _dated(self, marks: Sequence[Mark]) -> list[ArrivedSpot]:
        words: list[list[PictureScore]] = [[] for _ in marks]
        order = [i for i, turn in enumerate(self._turns) if turn is not None]
        for index in order:
            z, q = self._planes(index, self._turns[index] or 0)
            alignment = self._lenses.get(self._lens(index))
            for number, mark in enumerate(marks):
                place = place_under(alignment, mark.x, mark.y)
                words[number].append(
                    PictureScore(_at(z, place), _at(q, place), self._voices[index])
                )
        spots: list[ArrivedSpot] = []
        for mark, said in zip(marks, words, strict=True):
            stay = date_mark(said)
            if stay is not None and _holds(stay):
                spots.append(self._spot(len(spots), mark, stay, order))
        return spots

    def _depth(
        self, mark: Mark, stay: MarkDates, order: Sequence[int], f_number: float
    ) -> float | None:
        """The mark's depth at an aperture, from the pictures that can tell it best."""
        depths, scales = [], []
        for index in (order[i] for i in stay.best[:_TELL_DEPTH]):
            read, turn = self._reads[index], self._turns[index] or 0
            own = read.facts.f_number or f_number
            light = self._light(index)
            place = place_under(self._lenses.get(self._lens(index)), mark.x, mark.y)
            lens = lens_at(own, self._width_mm, max(self._grid))
            depth = depth_in(np.ascontiguousarray(np.rot90(light, -turn)), place, lens)
            if depth is not None:
                depths.append(depth)
                scales.append((f_number / own) ** 2)
        return usual_depth(depths, scales)

    def _light(self, index: int) -> Plane:
        """A picture's light on the common grid, as stored; read again, the last few are kept."""
        if index not in self._lights:
            light, _ = read_glance(Path(self._reads[index].path), 2 * GRID_PX)
            lying = light.shape[1] >= light.shape[0]
            same = lying == (self._grid[1] >= self._grid[0])
            if len(self._lights) >= _LIGHTS_KEPT:
                self._lights.pop(next(iter(self._lights)))
            self._lights[index] = on_grid(light, self._grid if same else self._grid[::-1])
        return self._lights[index]

    def _strip(self, mark: Mark, stay: MarkDates, order: Sequence[int]) -> Iterator[ShownIn]:
        """Pictures that show the mark, between the last without it and the first without again."""
        numbers = [(n, True) for n in _spread(stay.seen, _FILMSTRIP)]
        if stay.last_without is not None:
            numbers.insert(0, (stay.last_without, False))
        if stay.first_without_again is not None:
            numbers.append((stay.first_without_again, False))
        for number, shows in numbers:
            index = order[number]
            x, y = self._place_in(mark, index)
            read = self._reads[index]
            yield ShownIn(
                path=read.path,
                taken_at=read.facts.taken_at,
                x_px=round(x, 1),
                y_px=round(y, 1),
                shows=shows,
            )

    def _place_in(self, mark: Mark, index: int) -> tuple[float, float]:
        """The mark's place in a picture as it is stored, in its own pixels."""
        facts, turn = self._reads[index].facts, self._turns[index] or 0
        x, y = place_under(self._lenses.get(self._lens(index)), mark.x, mark.y)
        stored = self._grid[::-1] if turn % 2 else self._grid
        centre = np.array([(n - 1) / 2 for n in self._grid[::-1]])
        off = turned(np.array([[x, y]]) - centre, turn)[0]
        zoom = facts.width_px / stored[1]
        middle = np.array([(n - 1) / 2 for n in stored[::-1]])
        at = (middle + off + 0.5) * zoom - 0.5
        return float(at[0]), float(at[1])

    def _usual_place(self, mark: Mark, seen: Sequence[int]) -> tuple[float, float]:
        """The mark's middle place in the pictures that show it, as the sensor lies."""
        lenses = [self._lenses.get(self._lens(i)) for i in seen]
        places = np.array([place_under(lens, mark.x, mark.y) for lens in lenses])
        return float(np.median(places[:, 0])), float(np.median(places[:, 1]))

    def _spot(self, number: int, mark: Mark, stay: MarkDates, order: Sequence[int]) -> ArrivedSpot:
        zoom = self._whole[1] / self._grid[1]
        x, y = self._usual_place(mark, [order[i] for i in stay.seen])
        darkest = darkest_of(self._reads)
        lens = lens_at(darkest, self._width_mm, max(self._grid))
        depth = self._depth(mark, stay, order, darkest) or min(1.0, lens.depth * stay.size)

        def when(index: int | None) -> str | None:
            return None if index is None else self._reads[order[index]].facts.taken_at

        return ArrivedSpot(
            id=f"m{number + 1}",
            x_px=round((x + 0.5) * zoom - 0.5, 1),
            y_px=round((y + 0.5) * zoom - 0.5, 1),
            depth=round(depth, 4),
            outer_px=round(lens.blur_px * (1 + depth**0.5) * zoom, 1),
            seen_in=len(stay.seen),
            could_see=len(stay.could_see),
            confidence=round(1 - float(np.exp(-stay.odds / 4)), 4),
            dates_confidence=round(stay.edges, 3),
            last_without=when(stay.last_without),
            first_with=when(stay.first_with),
            last_with=when(stay.last_with),
            first_without_again=when(stay.first_without_again),
            shown_in=tuple(self._strip(mark, stay, order)),
        )


def _spread(numbers: Sequence[int], count: int) -> list[int]:
    """Some of the numbers, the first and the last among them."""
    if len(numbers) <= count:
        return list(numbers)
    return [numbers[round(k * (len(numbers) - 1) / (count - 1))] for k in range(count)]


def _holds(stay: MarkDates) -> bool:
    during = [i for i in stay.could_see if stay.first_with <= i <= stay.last_with]
    return (
        stay.odds >= _LEAST_ODDS
        and stay.scenes >= FEW_SCENES
        and len(stay.seen) >= _LEAST_SHARE * len(during)
    )


def _at(plane: Plane, place: tuple[float, float]) -> float:
    """A plane's value between pixels; 0 outside."""
    x, y = place
    left, top = int(np.floor(x)), int(np.floor(y))
    if not (0 <= left < plane.shape[1] - 1 and 0 <= top < plane.shape[0] - 1):
        return 0.0
    dx, dy = x - left, y - top
    upper = plane[top, left] * (1 - dx) + plane[top, left + 1] * dx
    lower = plane[top + 1, left] * (1 - dx) + plane[top + 1, left + 1] * dx
    return float(upper * (1 - dy) + lower * dy)
