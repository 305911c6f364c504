"""Live samples through the real server and the real page, by the clock on the wall."""

from __future__ import annotations

import re
import struct
import threading
import time
from pathlib import Path

import httpx
import numpy as np
from playwright.sync_api import sync_playwright
from tests.browser.conftest import ARGUMENTS, chromium
from websockets.sync.client import connect

from conftest import new_job, new_take, start_server

GAMEPAD = {"kind": "gamepad", "name": "a thousand a second"}

WATCH = """
(() => {
  const start = performance.now();
  let report = null;
  navigator.getGamepads = () => {
    const now = Math.floor(performance.now());
    if (report?.timestamp !== now) {
      report = { index: 0, id: "pad", connected: true, timestamp: now, buttons: [],
                 axes: [Math.sin(now / 400) * 0.01, 0, 0, 0] };
    }
    return [report];
  };
  const sent = [];
  window.delays = [];
  const send = WebSocket.prototype.send;
  WebSocket.prototype.send = function (frame) {
    if (frame instanceof Float64Array) for (let i = 0; i < frame.length; i += 3) sent.push(frame[i]);
    return send.call(this, frame);
  };
  const handler = Object.getOwnPropertyDescriptor(WebSocket.prototype, "onmessage");
  Object.defineProperty(WebSocket.prototype, "onmessage", {
    set(f) {
      handler.set.call(this, (event) => {
        f(event);
        if (!(event.data instanceof ArrayBuffer)) return;
        const n = new Uint32Array(event.data, 0, 1)[0];
        const times = sent.splice(0, n);
        requestAnimationFrame(() => {
          const drawn = performance.now();
          for (const t of times) window.delays.push(drawn - t);
        });
      });
    },
  });
})();
"""


def live_rate(folder: Path, seconds: float) -> str:
    """1 kHz on two axes, in real time: nothing may be lost."""
    server = start_server(folder)
    http = server.client(120)
    take = new_take(http, new_job(http), GAMEPAD)
    n = int(seconds * 1000)
    came: list[tuple[float, int]] = []
    with connect(f"ws://127.0.0.1:{server.port}/api/takes/{take}/live") as socket:
        began = time.perf_counter()

        def listen() -> None:
            while sum(c for _, c in came[-1:]) < n:
                message = socket.recv(timeout=30)
                if isinstance(message, bytes):
                    count = struct.unpack_from("<I", message)[0]
                    total = (came[-1][1] if came else 0) + count
                    came.append((time.perf_counter() - began, total))

        listener = threading.Thread(target=listen)
        listener.start()
        sent = 0
        while sent < n:
            due = min(n, int((time.perf_counter() - began) * 1000))
            if due > sent:
                t = np.arange(sent, due, dtype=float)
                rows = np.column_stack((t, 0.01 * np.sin(t / 300), 0 * t))
                socket.send(rows.astype("<f8").tobytes())
                sent = due
            time.sleep(0.01)
        listener.join()
        socket.send('{"do": "lost"}')
        while not isinstance(socket.recv(timeout=60), str) or not _ended(http, take):
            pass
    stored = http.get(f"/api/takes/{take}").json()["readings"]["recording"]["samples"]
    delays = [(at - (total - 1) / 1000) * 1e3 for at, total in came]
    http.close()
    server.stop()
    return (
        f"{n} samples at 1 kHz on two axes in {seconds:.0f} s: {n - stored} lost; from sample to "
        f"page p50 {np.percentile(delays, 50):.1f} ms, p95 {np.percentile(delays, 95):.1f} ms"
    )


def _resident_mb(pid: int) -> float:
    """What a process holds in memory."""
    status = Path(f"/proc/{pid}/status").read_text()
    return int(re.search(r"VmRSS:\s+(\d+)", status).group(1)) / 1024  # type: ignore[union-attr]


def six_axes(folder: Path, seconds: float) -> str:
    """Three sticks at once, 1 kHz each, two axes: nothing lost, the server's memory flat."""
    server = start_server(folder)
    http = server.client(300)
    hour = {"name": "An hour", "steps": ["still"], "still_s": 3600}
    own = http.post("/api/routines", json=hour).json()["id"]
    takes = [new_take(http, new_job(http), GAMEPAD, routine_id=own) for _ in range(3)]
    n = int(seconds * 1000)
    sockets = [connect(f"ws://127.0.0.1:{server.port}/api/takes/{t}/live") for t in takes]
    over = threading.Event()

    def drain(socket) -> None:
        while not over.is_set():
            try:
                socket.recv(timeout=1)
            except TimeoutError:
                continue
            except Exception:
                return

    readers = [threading.Thread(target=drain, args=(s,)) for s in sockets]
    for reader in readers:
        reader.start()
    began, sent, held = time.perf_counter(), 0, []
    while sent < n:
        due = min(n, int((time.perf_counter() - began) * 1000))
        if due > sent:
            t = np.arange(sent, due, dtype=float)
            wave = 0.01 * np.sin(t / 300)
            frame = np.column_stack((t, wave, -wave)).astype("<f8").tobytes()
            for socket in sockets:
                socket.send(frame)
            sent = due
        held.append((time.perf_counter() - began, _resident_mb(server.process.pid)))
        time.sleep(0.02)
    for socket in sockets:
        socket.send('{"do": "lost"}')
    while not all(_ended(http, t) for t in takes):
        time.sleep(0.5)
    over.set()
    for reader in readers:
        reader.join()
    lost = 0
    for take in takes:
        facts = http.get(f"/api/takes/{take}").json()["readings"]["recording"]
        lost += n - facts["samples"]
    http.close()
    server.stop()
    early = next(mb for at, mb in held if at > 0.1 * seconds)
    return (
        f"{3 * n} samples, six axes at 1 kHz in {seconds:.0f} s: {lost} lost; the server held "
        f"{early:.0f} MB after a tenth of the time and {held[-1][1]:.0f} MB at the end"
    )


def _ended(http: httpx.Client, take: int) -> bool:
    return http.get(f"/api/takes/{take}").json()["take"]["state"] != "recording"


def sample_to_screen(folder: Path) -> str:
    """From a report of the browser's controller to the picture that shows it."""
    server = start_server(folder)
    with server.client() as http:
        job = new_job(http)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(WATCH)
        page.goto(f"{server.base}/jobs/{job}/prove")
        page.get_by_role("button", name="Start the take").click()
        page.get_by_text("Let-go").wait_for()
        page.wait_for_timeout(8_000)
        delays = np.array(page.evaluate("delays"))[500:]
        browser.close()
    server.stop()
    return (
        f"sample to screen, {len(delays)} samples in the page: p50 {np.percentile(delays, 50):.0f} "
        f"ms, p95 {np.percentile(delays, 95):.0f} ms"
    )


def trace_of_half_a_million(folder: Path) -> str:
    """How long the trace's redraw holds the page when half a million samples are zoomed."""
    n = 500_000
    rng = np.random.default_rng(1)
    rows = "".join(
        f"{i * 1000},{a},{b},still\n" for i, (a, b) in enumerate(rng.integers(400, 600, (n, 2)))
    )
    head = "# hollow-pin-recording: 1\n# range.x: 0,1023\n# range.y: 0,1023\nt_us,x,y,step\n"
    server = start_server(folder)
    with server.client(60) as http:
        job = new_job(http)
        file = {"file": ("long.csv", (head + rows).encode(), "text/csv")}
        take = http.post(f"/api/jobs/{job}/recordings", files=file, data={"stick": "left"}).json()[
            "id"
        ]
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{server.base}/jobs/{job}/takes/{take}", wait_until="networkidle")
        box = page.locator(".trace .u-over").bounding_box()
        assert box
        page.evaluate(
            "window.held = []; new PerformanceObserver(l => l.getEntries().forEach(e => "
            "held.push(e.duration))).observe({ type: 'longtask' })"
        )
        y = box["y"] + 20
        for left, right in ((50, 600), (100, 500), (20, 400), (60, 300)):
            page.mouse.move(box["x"] + left, y)
            page.mouse.down()
            page.mouse.move(box["x"] + right, y, steps=6)
            page.mouse.up()
        page.mouse.dblclick(box["x"] + 200, y)
        page.wait_for_timeout(300)
        held = page.evaluate("held") or [0]
        browser.close()
    server.stop()
    return (
        f"trace of {n} samples, zoomed in and out: the page is held {max(held):.0f} ms at the most"
    )
