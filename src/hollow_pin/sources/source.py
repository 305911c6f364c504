"""What every live source is."""

from __future__ import annotations

from collections.abc import AsyncIterator
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from hollow_pin.core.recording import AxisRange, Floats


@dataclass(frozen=True, eq=False)
class Block:
    """Samples in the order they were taken: t_us (n,) int64, raw (n, k) with y up."""

    t_us: NDArray[np.int64]
    raw: Floats


class SourceLost(Exception):
    """The device is gone. The message says what happened, for the record."""


class Source(Protocol):
    """A device that gives samples."""

    @property
    def ranges(self) -> tuple[AxisRange, ...]: ...

    def blocks(self) -> AsyncIterator[Block]:
        """Samples as they come. Raises SourceLost when the device goes away."""
        ...

    def cue(self, step: str | None) -> None:
        """The step now asked for. Devices held by a person have nothing to do."""
        ...

    def notes(self) -> dict[str, str]:
        """What went wrong on the way, counted, by name; kept with the take."""
        ...
