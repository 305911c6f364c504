"""What a page is told over a WebSocket that is refused it, or that sent what nobody agreed on."""

from __future__ import annotations

import contextlib
import json

from fastapi import WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from hollow_pin.sources.page import BadFrame

MISSING, REFUSED = 4404, 4403
"""With which the line is closed."""
GONE = (RuntimeError, WebSocketDisconnect)
"""What is raised where the page went away."""


async def refuse(socket: WebSocket, because: str, code: int = REFUSED) -> None:
    """Say why, whole, and close the line: {"type": "refused", "message": …}. A reason to close holds
    123 bytes, and no sentence that says what to do."""
    with contextlib.suppress(*GONE):
        await socket.send_text(json.dumps({"type": "refused", "message": because}))
        await socket.close(code)


def not_taken_in(wrong: BadFrame | ValidationError) -> str:
    """What is told to a page that sent something else than was agreed."""
    reason = str(wrong) if isinstance(wrong, BadFrame) else "a command that is not known"
    return f"Not taken in: {reason}."
