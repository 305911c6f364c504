"""How a source is read is kept with a take in lines of text, and comes back as it was."""

from __future__ import annotations

from dataclasses import replace
from typing import get_args

import pytest

from hollow_pin.core.sources import (
    OF_ONE_CONTROLLER,
    SOURCE,
    SOURCES,
    ReportField,
    SourceKind,
    SourceSetup,
    setup_of,
)
from hollow_pin.sources.registry import OPEN, open_real
from hollow_pin.sources.source import SourceLost

WHOLE = SourceSetup(
    "/dev/input/event7",
    (3, 2),
    ("y",),
    True,
    {"x": ReportField(2, 16, 12, 0, 4095), "y": ReportField(2, 28, 12, -2048, 2047)},
    {"x": 4, "y": 0},
    {"x": 16, "y": 16},
    True,
)


@pytest.mark.parametrize(
    "setup",
    [
        SourceSetup(),
        WHOLE,
        replace(WHOLE, path="", fields=None),
        replace(WHOLE, axes=(0,), flipped=(), y_turned=False),
        replace(WHOLE, flipped=("x", "y")),
        SourceSetup(fuzz={"y": 1}),
    ],
)
def test_a_setup_comes_back_from_its_lines(setup: SourceSetup) -> None:
    assert setup_of(setup.headers()) == setup


def test_lines_that_say_nonsense_are_left_out() -> None:
    """A file from elsewhere may say anything, and its take is still shown."""
    said = {"source-axes": "x,y", "source-flipped": "z,y", "hid.x": "2,16", "fuzz.x": "many"}
    assert setup_of(said) == SourceSetup(flipped=("y",))


def test_every_kind_has_its_row_and_every_device_what_opens_it() -> None:
    assert {s.kind for s in SOURCES} == set(get_args(SourceKind))
    devices = {s.kind for s in SOURCES if s.read_by in ("page", "server")}
    assert set(OPEN) == devices
    assert all(SOURCE[kind].rawer for kind in OF_ONE_CONTROLLER[:-1])
    with pytest.raises(SourceLost, match="file is not a device"):
        open_real("file", SourceSetup(), ())
