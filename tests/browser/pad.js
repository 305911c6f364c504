// A controller for the page to find, held by somebody who does what the screen asks, up to sixteen times
// as fast as the clock on the wall: as fast as the page reads every report. window.pad.restX, restY:
// where it rests. pad.unplug() pulls the cable.
(() => {
  const SPEED = 16;
  const REPORT_MS = 16;
  const RELEASE_S = 2.1;
  const LAP_S = 1.3;
  const pad = { restX: 0.06, restY: -0.03, connected: true };
  let seed = 7;
  const noise = () => {
    seed = (seed * 16807) % 2147483647;
    return (seed / 2147483647 - 0.5) * 0.004;
  };
  let step = "";
  let since = 0;
  const asked = (now) => {
    const shown = document.querySelector('[aria-current="step"]')?.textContent ?? "";
    if (shown !== step) {
      step = shown;
      since = now;
    }
    return (now - since) / 1000;
  };
  const aim = (now) => {
    const s = asked(now) - 0.5;
    if (s < 0) return null;
    if (step === "Let-go") {
      const angle = (Math.floor(s / RELEASE_S) % 8) * (Math.PI / 4);
      return s % RELEASE_S < 0.45 ? [Math.sin(angle), Math.cos(angle)] : null;
    }
    if (step !== "Rim") return null;
    const round = s % (5.2 * LAP_S);
    const turned = round < 2.6 * LAP_S ? round / LAP_S : 5.2 - round / LAP_S;
    return [Math.sin(turned * 2 * Math.PI), Math.cos(turned * 2 * Math.PI)];
  };
  let now = performance.now();
  let made = now;
  let report = null;
  const read = () => {
    if (report && performance.now() - made < REPORT_MS / SPEED) return report;
    made = performance.now();
    now += REPORT_MS;
    const to = aim(now);
    const x = (to ? 0.95 * to[0] : 0) + pad.restX * (to ? 0.2 : 1) + noise();
    const y = (to ? 0.95 * to[1] : 0) + pad.restY * (to ? 0.2 : 1) + noise();
    report = {
      index: 0,
      id: "Plover on a cable",
      connected: true,
      timestamp: now,
      axes: [x, -y, 0, 0],
      buttons: [],
      mapping: "standard",
    };
    return report;
  };
  navigator.getGamepads = () => (pad.connected ? [read()] : [null]);
  pad.unplug = () => {
    pad.connected = false;
    const event = new Event("gamepaddisconnected");
    event.gamepad = { index: 0 };
    window.dispatchEvent(event);
  };
  window.pad = pad;
})();
