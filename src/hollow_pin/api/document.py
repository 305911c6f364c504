"""Print the OpenAPI document, from which the front end's types are made."""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from hollow_pin.api.app import create_app
from hollow_pin.store.database import Database

if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as folder:
        print(json.dumps(create_app(Database(Path(folder))).openapi(), indent=1))
