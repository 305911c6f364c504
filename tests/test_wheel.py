"""A wheel carries everything: who installs it needs no Node and no network."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import zipfile
from pathlib import Path

import httpx
import pytest

ROOT = Path(__file__).parents[1]


def build(root: Path, to: Path) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [
            sys.executable,
            "-m",
            "build",
            "--wheel",
            "--no-isolation",
            "--outdir",
            str(to),
            str(root),
        ],
        capture_output=True,
        text=True,
        check=False,
    )


@pytest.fixture(scope="module")
def installed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The wheel's contents in a folder of their own, apart from this checkout."""
    folder = tmp_path_factory.mktemp("wheel")
    made = build(ROOT, folder)
    assert made.returncode == 0, made.stderr
    (wheel,) = folder.glob("*.whl")
    place = folder / "site"
    with zipfile.ZipFile(wheel) as archive:
        archive.extractall(place)
    return place


def test_an_installed_wheel_serves_the_interface(installed: Path, tmp_path: Path) -> None:
    process = subprocess.Popen(
        [sys.executable, "-m", "hollow_pin.cli", "serve", "--port", "0", "--data", str(tmp_path)],
        stdout=subprocess.PIPE,
        text=True,
        cwd=tmp_path,
        env=os.environ | {"PYTHONPATH": str(installed), "PYTHONUNBUFFERED": "1"},
    )
    assert process.stdout
    address = re.search(r"http://[^ ]+", process.stdout.readline())
    assert address
    try:
        page = httpx.get(address.group() + "/jobs/1/prove")
        assert page.status_code == 200
        script = re.search(r'src="(/assets/[^"]+\.js)"', page.text)
        assert script
        assert httpx.get(address.group() + script.group(1)).status_code == 200
        assert httpx.get(address.group() + "/api/models").status_code == 200
    finally:
        process.terminate()
        process.wait(10)


def test_fonts_are_in_the_wheel_and_no_page_asks_elsewhere(installed: Path) -> None:
    web = installed / "hollow_pin" / "web"
    assert len(list(web.rglob("*.woff2"))) >= 2
    for sheet in web.rglob("*.css"):
        assert not re.search(r"url\(['\"]?https?:", sheet.read_text("utf-8"))
    assert "http" not in re.sub(r"http://www\.w3\.org\S*", "", (web / "index.html").read_text())
