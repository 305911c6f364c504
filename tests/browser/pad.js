// A controller for the page to find, moved by a hand that performs the routine by its own clock,
// three times as fast as the wall's. window.pad.restX, restY: where it rests. pad.begin() starts
// the hand; pad.unplug() pulls the cable.
(() => {
  const SPEED = 3;
  const REPORT_MS = 4;
  const pad = { restX: 0.06, restY: -0.03, began: null, connected: true };
  let seed = 7;
  const noise = () => {
    seed = (seed * 16807) % 2147483647;
    return (seed / 2147483647 - 0.5) * 0.006;
  };
  const aim = (s) => {
    if (s < 13) return null;
    const push = s - 13;
    if (push < 16 * 2.3) {
      const angle = (Math.floor(push / 2.3) % 8) * (Math.PI / 4);
      return push % 2.3 < 0.5 ? [Math.sin(angle), Math.cos(angle)] : null;
    }
    const lap = push - 16 * 2.3 - 3;
    if (lap < 0 || lap > 9) return null;
    const turned = lap < 4.5 ? lap / 1.25 : 3.6 - (lap - 4.5) / 1.25;
    return [Math.sin(turned * 2 * Math.PI), Math.cos(turned * 2 * Math.PI)];
  };
  const start = performance.now();
  let report = null;
  const read = () => {
    const now = start + Math.floor(((performance.now() - start) * SPEED) / REPORT_MS) * REPORT_MS;
    if (report?.timestamp === now) return report;
    const to = pad.began === null ? null : aim((now - pad.began) / 1000);
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
  pad.begin = () => {
    pad.began = start + (performance.now() - start) * SPEED;
  };
  pad.unplug = () => {
    pad.connected = false;
    const event = new Event("gamepaddisconnected");
    event.gamepad = { index: 0 };
    window.dispatchEvent(event);
  };
  window.pad = pad;
})();
