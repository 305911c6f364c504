"""Why something asked for is not done."""

from __future__ import annotations


class Refused(Exception):
    """The bench does not do this, and says why. field: what in the request to change."""

    def __init__(self, message: str, field: str | None = None) -> None:
        super().__init__(message)
        self.field = field


class Changed(Refused):
    """Somebody else changed it meanwhile. changes: each field and how it reads now."""

    def __init__(self, message: str, changes: dict[str, str]) -> None:
        super().__init__(message)
        self.changes = changes


class NotFound(Exception):
    """There is no such thing. what: “job”, “take”, …"""

    def __init__(self, what: str, key: object) -> None:
        super().__init__(f"There is no {what} {key}.")
