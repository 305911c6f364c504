"""Directions and circles in the plane of a stick: x to the right, y up, % of half range."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import numpy as np
import scipy
from numpy.typing import NDArray

from hollow_pin.core.recording import Floats

FEW = 40


@dataclass(frozen=True)
class Circle:
    """A circle by its middle and radius, % of half range."""

    x: float
    y: float
    radius: float


def bearing(x: Floats | float, y: Floats | float) -> Floats:
    """Degrees clockwise from up, 0 ≤ b < 360."""
    degrees = np.mod(np.degrees(np.arctan2(x, y)), 360.0)
    return np.where(degrees >= 360.0, 0.0, degrees)


SECTOR = 45.0


def sector(b: float) -> int:
    """Which of the eight 45° sectors a bearing falls in; 0 is centred on up."""
    return int(np.floor(b / SECTOR + 0.5)) % 8


def clock_hour(b: float) -> int:
    """The hour a bearing points to: 0° is 12 o'clock, 90° is 3."""
    return int(np.floor(b / 30.0 + 0.5)) % 12 or 12


def lengths(points: Floats) -> Floats:
    """Distances of points (n, 2) from nominal zero."""
    return np.hypot(points[:, 0], points[:, 1])


def outline(points: Floats) -> Floats:
    """The corners of the points' convex hull; all of them where they are few or have no hull."""
    if len(points) <= FEW:
        return points
    try:
        return np.asarray(points[scipy.spatial.ConvexHull(points).vertices])
    except scipy.spatial.QhullError:
        ends = [points[:, 0].argmin(), points[:, 0].argmax()]
        ends += [points[:, 1].argmin(), points[:, 1].argmax()]
        return np.asarray(points[sorted(set(ends))])


def distances(points: Floats) -> Floats:
    """Every distance between two of the points, (n, n)."""
    dx = points[:, 0, None] - points[None, :, 0]
    dy = points[:, 1, None] - points[None, :, 1]
    return np.hypot(dx, dy)


def diameter(points: Floats) -> float:
    """The largest distance between any two points (n, 2); 0 for a single one."""
    return float(distances(outline(points)).max())


def candidate_circles(points: Floats) -> Floats:
    """Every circle through two points as a diameter and through three points: (m, 3) x, y, r."""
    n = len(points)
    alone = np.column_stack((points, np.zeros(n)))
    pairs = np.array(list(combinations(range(n), 2)), dtype=np.intp).reshape(-1, 2)
    a, b = points[pairs[:, 0]], points[pairs[:, 1]]
    across = np.column_stack(((a + b) / 2, np.hypot(*(a - b).T) / 2))
    triples = np.array(list(combinations(range(n), 3)), dtype=np.intp).reshape(-1, 3)
    a, b, c = (points[triples[:, i]] for i in range(3))
    b, c = b - a, c - a
    twice = 2 * (b[:, 0] * c[:, 1] - b[:, 1] * c[:, 0])
    apart = np.abs(twice) > 1e-12
    a, b, c, twice = a[apart], b[apart], c[apart], twice[apart]
    bb, cc = np.square(b).sum(axis=1), np.square(c).sum(axis=1)
    ux = (c[:, 1] * bb - b[:, 1] * cc) / twice
    uy = (b[:, 0] * cc - c[:, 0] * bb) / twice
    circles = np.column_stack((a[:, 0] + ux, a[:, 1] + uy, np.hypot(ux, uy)))
    return np.concatenate((alone, across, circles))


def outside(circles: Floats, points: Floats) -> NDArray[np.bool_]:
    """Which points lie outside which circles, (circles, points)."""
    dx = points[None, :, 0] - circles[:, 0, None]
    dy = points[None, :, 1] - circles[:, 1, None]
    return np.asarray(np.hypot(dx, dy) > circles[:, 2, None] + 1e-9)


def smallest_circle(points: Floats) -> Circle:
    """The smallest circle that encloses all points.

    points: (n, 2), n ≥ 1, finite; ValueError otherwise. The circle is determined by two or three
    corners of the convex hull (Welzl 1991); there are few enough of them to try every choice.
    """
    if not len(points) or not np.isfinite(points).all():
        raise ValueError("a smallest circle needs at least one point, all of them finite")
    corners = outline(points)
    circles = candidate_circles(corners)
    enclosing = circles[~outside(circles, corners).any(axis=1)]
    x, y, radius = enclosing[enclosing[:, 2].argmin()]
    return Circle(float(x), float(y), float(radius))


def least_squares_circle(points: Floats) -> Circle:
    """The circle with the least sum of squared distances to points (n, 2), n ≥ 3 (ISO 12181-1, LSC).

    Gauss–Newton on the geometric distance, started from the algebraic fit.
    """
    a = np.column_stack((points, np.ones(len(points))))
    cx, cy, _ = np.linalg.lstsq(a, np.square(points).sum(axis=1), rcond=None)[0] / 2
    for _ in range(50):
        dx, dy = points[:, 0] - cx, points[:, 1] - cy
        r = np.hypot(dx, dy)
        slope = np.column_stack((-dx / r, -dy / r)) - np.array([(-dx / r).mean(), (-dy / r).mean()])
        step = np.linalg.lstsq(slope, -(r - r.mean()), rcond=None)[0]
        cx, cy = cx + step[0], cy + step[1]
        if np.hypot(*step) < 1e-12:
            break
    r = np.hypot(points[:, 0] - cx, points[:, 1] - cy)
    return Circle(float(cx), float(cy), float(r.mean()))


def peak_to_valley(points: Floats, x: float, y: float) -> float:
    """Largest less smallest distance of the points from a centre."""
    r = np.hypot(points[:, 0] - x, points[:, 1] - y)
    return float(r.max() - r.min())


def minimum_zone_circle(points: Floats, start: Circle) -> Circle:
    """The centre from which the points lie in the narrowest ring (ISO 12181-1, MZC).

    points: (n, 2), n ≥ 4, in order of bearing around `start`. Each round solves the linearised
    problem exactly and is accepted only when it narrows the ring, so the result is never wider than
    the start's. radius is the middle of the ring.
    """
    x, y = start.x, start.y
    width = peak_to_valley(points, x, y)
    for _ in range(8):
        dx, dy = points[:, 0] - x, points[:, 1] - y
        r = np.hypot(dx, dy)
        move = _narrowest(r, dx / r, dy / r)
        narrower = peak_to_valley(points, x + move[0], y + move[1])
        if narrower >= width:
            break
        x, y = x + move[0], y + move[1]
        gained, width = width - narrower, narrower
        if gained < 1e-10:
            break
    r = np.hypot(points[:, 0] - x, points[:, 1] - y)
    return Circle(x, y, float((r.max() + r.min()) / 2))


def _narrowest(r: Floats, sine: Floats, cosine: Floats) -> tuple[float, float]:
    """The a, b that make max |r − a·sine − b·cosine − c| smallest over a, b, c.

    The sines, cosines and a constant are a Haar system around the circle, so the best fit leaves
    four residuals of alternating sign and equal size; single exchange finds them (Remez 1934).
    """
    n = len(r)
    support = [0, n // 4, n // 2, 3 * n // 4]
    alternating = np.array([1.0, -1.0, 1.0, -1.0])
    a = b = 0.0
    for _ in range(4 * n):
        at = np.array(support)
        system = np.column_stack((sine[at], cosine[at], np.ones(4), alternating))
        a, b, c, level = (float(v) for v in np.linalg.solve(system, r[at]))
        residual = r - a * sine - b * cosine - c
        worst = int(np.abs(residual).argmax())
        if worst in support or abs(residual[worst]) <= abs(level) * (1 + 1e-12):
            break
        before = (int(np.searchsorted(at, worst)) - 1) % 4
        same = np.sign(residual[support[before]]) == np.sign(residual[worst])
        out = before if same else (before + 1) % 4
        support[out] = worst
        turn = support.index(min(support))
        support = support[turn:] + support[:turn]
        if turn % 2:
            alternating = -alternating
    return a, b
