"""A dead zone and a curve in the program at the other end: what it then receives, what that hides of a
stick and what it costs."""

from __future__ import annotations

from math import asin, degrees
from typing import Any, Literal

import numpy as np

from hollow_pin.core.calculators.calculator import (
    Calculator,
    Curve,
    Input,
    OutOfBounds,
    Output,
    Own,
    Plot,
    share,
)
from hollow_pin.core.recording import Floats

Shape = Literal["radial", "axial"]
PUSH = np.linspace(0.0, 100.0, 201)
DIAGONAL = 100.0 * 0.5**0.5


def shaped(m: Floats, inner: float, outer: float, rescaled: bool, curve: float) -> Floats:
    """How much is received of a push: m, % from 0, any shape; 0 to 100 %.

    Nothing up to inner, everything from 100 − outer on. Between them the whole scale again where it is
    rescaled, else the push as a share of all up to there. The share is raised to the power of curve.
    """
    full = 100.0 - outer
    along = (m - inner) / (full - inner) if rescaled else m / full
    part = np.clip(along, 0.0, 1.0) ** curve
    return np.asarray(100.0 * np.where(m <= inner, 0.0, np.where(m >= full, 1.0, part)))


def received(
    u: Floats, inner: float, outer: float, shape: Shape, rescaled: bool, curve: float
) -> Floats:
    """What the program receives of places u (n, 2), %: (n, 2) %.

    radial: by the distance, the direction stays. axial: each axis by itself.
    """
    if shape == "axial":
        return np.sign(u) * shaped(np.abs(u), inner, outer, rescaled, curve)
    r = np.hypot(u[:, 0], u[:, 1])[:, None]
    return np.asarray(u * shaped(r, inner, outer, rescaled, curve) / np.maximum(r, 1e-12))


def _run(
    shape: Shape,
    inner_percent: float,
    outer_percent: float,
    rescaled: str,
    curve: float = 1.0,
    rest_x_percent: float = 0.0,
    rest_y_percent: float = 0.0,
    needed_percent: float | None = None,
    reach_percent: float | None = None,
) -> dict[str, Any]:
    _fits(inner_percent, outer_percent)
    how = (inner_percent, outer_percent, rescaled == "yes", curve)
    full = 100.0 - outer_percent
    rest = np.array([[rest_x_percent, rest_y_percent]])
    at_rest = float(np.hypot(*received(rest, inner_percent, outer_percent, shape, *how[2:])[0]))
    half = inner_percent + (full - inner_percent) * 0.5 ** (1 / curve)
    if not how[2]:
        half = max(inner_percent, full * 0.5 ** (1 / curve))
    just_over = np.nextafter(inner_percent, 100.0)
    reached = None if reach_percent is None else float(shaped(np.array(reach_percent), *how))
    corner = received(np.full((1, 2), DIAGONAL), inner_percent, outer_percent, shape, *how[2:])[0]
    return {
        "received_at_rest_percent": at_rest,
        "smallest_percent": needed_percent,
        "hides": None if needed_percent is None else inner_percent >= needed_percent,
        "travel_lost_percent": inner_percent + outer_percent,
        "step_percent": 0.0 if how[2] else float(shaped(np.array(just_over), *how)),
        "half_speed_at_percent": half,
        "full_from_percent": full,
        "received_at_reach_percent": reached,
        "snaps_degrees": degrees(asin(inner_percent / 100.0)) if shape == "axial" else 0.0,
        "diagonal_percent": float(corner[0]),
        "words": _words(shape, inner_percent, needed_percent, reached),
    }


def _fits(inner: float, outer: float) -> None:
    if inner + outer >= 100.0:
        raise OutOfBounds(
            "outer_percent",
            f"{outer:g} % leaves nothing beside the inner {inner:g} %: under 100 % together.",
        )


def _words(shape: Shape, inner: float, needed: float | None, reached: float | None) -> list[str]:
    """What it means for this stick, in sentences."""
    sentences = []
    if needed is not None and inner < needed:
        sentences.append(f"It does not hide this stick: {needed:.1f} % would, {inner:g} % is set.")
    elif needed is not None:
        spare = inner - needed
        sentences.append(
            f"It hides this stick's rest, with {spare:.1f} % to spare; it mends nothing."
        )
    if reached is not None and reached < 100.0:
        sentences.append(
            f"Where the rim is lowest the program receives {reached:.0f} %: full speed is not "
            "reached there."
        )
    if shape == "axial" and inner:
        sentences.append(
            "Close to left, right, up and down the other axis is swallowed: it snaps there."
        )
    return sentences


def _draw(
    shape: Shape, inner_percent: float, outer_percent: float, rescaled: str, **more: Any
) -> Plot:
    _fits(inner_percent, outer_percent)
    how = (inner_percent, outer_percent, rescaled == "yes", more.get("curve", 1.0))
    x = tuple(PUSH.tolist())
    return Plot(
        "push, %",
        "received, %",
        "Flat at the left: what is hidden, and lost for fine work. Flat at the right: where full "
        "speed is had early. A step is felt.",
        (
            Curve("as pushed", x, x),
            Curve("received", x, tuple(shaped(PUSH, *how).tolist())),
        ),
    )


def _draw_over(
    own: Own,
    shape: Shape,
    inner_percent: float,
    outer_percent: float,
    rescaled: str,
    **more: Any,
) -> Plot:
    _fits(inner_percent, outer_percent)
    how = (inner_percent, outer_percent, shape, rescaled == "yes", more.get("curve", 1.0))

    def curve(label: str, places: Floats) -> Curve:
        closed = np.vstack((places, places[:1]))
        return Curve(label, tuple(closed[:, 0].tolist()), tuple(closed[:, 1].tolist()))

    curves = [curve("its own rim", own.rim), curve("received", received(own.rim, *how))]
    if len(own.returns):
        curves.append(curve("its returns", own.returns))
        curves.append(curve("returns, received", received(own.returns, *how)))
    return Plot(
        "left to right, %",
        "down to up, %",
        "This stick's own rim and returns, and what the program receives of them: returns that end in "
        "one point are hidden.",
        tuple(curves),
        plane=True,
    )


CALCULATOR = Calculator(
    "dead-zone",
    "Dead zone and curve",
    "Between inner and 100 − outer: s = (m − inner) / (100 − outer − inner), or m / (100 − outer) "
    "where it is not rescaled; received: 100 · s^curve. Radial: m is the distance; axial: each axis.",
    (
        Input("shape", "Shape", choices=("radial", "axial"), first="radial"),
        share("inner_percent", "Inner", "%", "8"),
        share("outer_percent", "Outer", "%", "5"),
        Input("rescaled", "Rescaled, so that there is no step", choices=("yes", "no"), first="yes"),
        Input("curve", "Curve: 1 is straight", "", 0.1, 10.0, optional=True),
        Input("rest_x_percent", "Where the stick rests, x", "%", -99.0, 99.0, optional=True),
        Input("rest_y_percent", "Where the stick rests, y", "%", -99.0, 99.0, optional=True),
        Input("needed_percent", "Dead zone that the stick needs", "%", 0.0, 100.0, optional=True),
        Input("reach_percent", "Its shortest reach", "%", 0.0, 150.0, optional=True),
    ),
    (
        Output("smallest_percent", "Smallest that hides its drift", "%"),
        Output("hides", "This one does"),
        Output("received_at_rest_percent", "Received where it rests", "%"),
        Output("travel_lost_percent", "Travel it costs", "%"),
        Output("step_percent", "Step at the inner edge", "%"),
        Output("half_speed_at_percent", "Half speed at", "%"),
        Output("full_from_percent", "Full speed from", "%"),
        Output("received_at_reach_percent", "Received at its shortest reach", "%"),
        Output("snaps_degrees", "Snaps to an axis within", "°"),
        Output("diagonal_percent", "Each axis at 45° on a round rim", "%"),
        Output("words", "For this stick"),
    ),
    _run,
    _draw,
    "A dead zone hides and mends nothing: measure without it, and say so to the owner.",
    _draw_over,
)
