"""A wheel carries the built front end, so that installing one needs no Node."""

from pathlib import Path

from hatchling.builders.hooks.plugin.interface import BuildHookInterface


class NeedsFrontEnd(BuildHookInterface):
    def initialize(self, version: str, build_data: dict) -> None:
        page = Path(self.root, "src/hollow_pin/web/index.html")
        if version != "editable" and not page.exists():
            raise RuntimeError("the front end is not built: run `make web`, then build the wheel")
