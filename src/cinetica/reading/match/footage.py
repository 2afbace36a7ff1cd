"""Read a curve off pictures: load the frames, track a point through them, and make a log of it.

Pillow reads the pictures; the patch around a point is found again by scikit-image's `match_template`.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from cinetica.model.milestone import Logged

Picture = NDArray[np.uint8]
Point = tuple[float, float]
# The most pictures that are read, and the most pixels in each.
MOST, LARGEST = 600, 4096 * 4096
# Half the side of the patch that is followed, and how far it is looked for, in pixels; how alike it must be to
# the frame before, and to the one that was clicked.
PATCH, REACH, ALIKE, SURE = 20, 48, 0.5, 0.8
# A patch whose brightness differs by less than this shows nothing to be followed.
FLAT = 1e-3


@dataclass(frozen=True, eq=False)
class Footage:
    """A row of pictures of one size (height, width, 3), and how many there are a second."""

    pictures: tuple[Picture, ...]
    rate: float


def read_footage(paths: Sequence[Path], rate: float | None = None) -> Footage:
    """Read pictures: several files in the order of their names, or one animated PNG or GIF.

    Without a `rate` (per second) that of the animation is used, else 60. Raises ValueError with a reason if they are
    not a series of pictures.
    """
    from PIL import Image, ImageSequence

    if not paths:
        raise ValueError("No picture was chosen.")
    if len(paths) > MOST:
        raise ValueError(f"{len(paths)} pictures are too many; at most {MOST} are read.")
    pictures: list[Picture] = []
    durations: list[float] = []
    for path in sorted(paths, key=lambda each: _in_order(each.name)):
        try:
            with Image.open(path) as opened:
                if opened.width * opened.height > LARGEST:
                    raise ValueError(f"{path.name}: {opened.width} × {opened.height} pixels are too many.")
                if getattr(opened, "n_frames", 1) > MOST:
                    raise ValueError(f"{path.name}: more than {MOST} pictures; cut it shorter.")
                for frame in ImageSequence.Iterator(opened):
                    durations.append(float(frame.info.get("duration", 0.0)))
                    pictures.append(np.asarray(frame.convert("RGB")))
        except (OSError, SyntaxError, Image.DecompressionBombError) as error:
            raise ValueError(f"{path.name} cannot be read as a picture: {error}") from error
    if len(pictures) > MOST:
        raise ValueError(f"{len(pictures)} pictures are too many; at most {MOST} are read.")
    if len(pictures) < 2:
        raise ValueError("One picture shows no movement; two at least are needed.")
    sizes = {picture.shape for picture in pictures}
    if len(sizes) > 1:
        words = " and ".join(sorted(f"{shape[1]} × {shape[0]}" for shape in sizes))
        raise ValueError(f"The pictures are of different sizes: {words}.")
    usual = float(np.median([each for each in durations if each > 0] or [0.0]))
    return Footage(tuple(pictures), rate or (1000.0 / usual if usual else 60.0))


def _in_order(name: str) -> tuple[object, ...]:
    """A sort key that puts `jump 9.png` before `jump 10.png`."""
    import re

    return tuple(int(part) if part.isdigit() else part.lower() for part in re.split(r"(\d+)", name))


def follow(footage: Footage, frame: int, point: Point, to: int) -> dict[int, Point]:
    """Track a point from `frame` to `to` (either way), until the patch around it is no longer found.

    The patch comes from the clicked frame or, failing that, from the previous frame. It is searched for near where the
    last step leads.
    """
    from skimage.color import rgb2gray
    from skimage.feature import match_template

    find: Any = match_template
    found, step, velocity = {frame: point}, (1 if to >= frame else -1), (0.0, 0.0)
    grey = [rgb2gray(footage.pictures[each]) for each in range(min(frame, to), max(frame, to) + 1)]

    def picture(place: int) -> NDArray[np.float64]:
        shown: NDArray[np.float64] = grey[place - min(frame, to)]
        return shown

    first = (*_cut(picture(frame), point, PATCH), point)
    for place in range(frame + step, to + step, step):
        last = found[place - step]
        room, corner = _cut(picture(place), (last[0] + velocity[0], last[1] + velocity[1]), PATCH + REACH)
        before = (*_cut(picture(place - step), last, PATCH), last)
        # The clicked patch does not drift; the previous one looks more alike.
        for (patch, patch_corner, of), least in ((first, SURE), (before, ALIKE)):
            fits = all(there >= wanted for there, wanted in zip(room.shape, patch.shape, strict=True))
            if min(patch.shape) < 3 or np.ptp(patch) < FLAT or not fits:
                continue
            likeness = find(room, patch)
            at = np.unravel_index(int(likeness.argmax()), likeness.shape)
            if likeness[at] >= least:
                down, across = _between(likeness, at)
                new = (corner[0] + across + of[0] - patch_corner[0], corner[1] + down + of[1] - patch_corner[1])
                break
        else:
            break
        velocity = (new[0] - last[0], new[1] - last[1])
        found[place] = new
    del found[frame]
    return found


def _cut(picture: NDArray[np.float64], around: Point, half: int) -> tuple[NDArray[np.float64], tuple[int, int]]:
    """The part of a picture around a point, and its top left corner."""
    high, wide = picture.shape
    left, top = (max(0, math.floor(value) - half) for value in around)
    right, bottom = min(wide, math.floor(around[0]) + half + 1), min(high, math.floor(around[1]) + half + 1)
    return picture[top : max(top, bottom), left : max(left, right)], (left, top)


def _between(likeness: NDArray[np.float64], at: tuple[np.intp, ...]) -> tuple[float, float]:
    """The subpixel position of the best correlation, by a parabola along each axis."""
    place = []
    for axis in (0, 1):
        k, size = int(at[axis]), likeness.shape[axis]
        if not 0 < k < size - 1:
            place.append(float(k))
            continue
        index = list(at)
        low, mid, high = (float(likeness[tuple([*index[:axis], k + by, *index[axis + 1 :]])]) for by in (-1, 0, 1))
        bend = low - 2.0 * mid + high
        place.append(k + (0.5 * (low - high) / bend if abs(bend) > 1e-12 else 0.0))
    return place[0], place[1]


def scale_of(one: Point, other: Point, length: float) -> float:
    """Pixels in a unit, from two points that are a known length (u) apart; ValueError if that says nothing."""
    pixels = math.dist(one, other)
    if pixels < 2.0:
        raise ValueError("The two points are too near to each other: a length needs two places.")
    if not length > 0.0:
        raise ValueError("The length between the two points has to be more than 0.")
    return pixels / length


def log_of(
    footage: Footage, feet: Mapping[int, Point], scale: float, ground: float, name: str, drill: str,
    start: tuple[float, float] = (0.0, 0.0),
) -> Logged:  # fmt: skip
    """Make a log of a drill from the feet. `scale` is in pixels a unit, `ground` the pixel row of height 0.

    The first frame is the drill's start, at its x. ValueError with fewer than three frames.
    """
    frames = sorted(feet)
    if len(frames) < 3:
        raise ValueError(f"The feet are set in {len(frames)} frames; three at least are needed.")
    time = (np.array(frames) - frames[0]) / footage.rate
    across, down = np.array([feet[frame] for frame in frames]).T
    x = start[0] + (across - across[0]) / scale
    y = (ground - down) / scale
    vx, vy = (np.concatenate([[0.0], np.diff(each) / np.diff(time)]) for each in (x, y))
    columns = {key: tuple((values + 0.0).tolist()) for key, values in (("x", x), ("y", y), ("vx", vx), ("vy", vy))}
    return Logged(
        name=name, drill=drill, note="Read off pictures.", derived=("vx", "vy"), time=tuple(time.tolist()), **columns
    )
