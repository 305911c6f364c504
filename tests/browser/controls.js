// A controller with 17 buttons and 6 axes for the page to find. handset.press(n), pressAll({...}),
// pull(axis, far), squeeze(n, far), unplug().
(() => {
  const REPORT_MS = 4;
  const buttons = Array.from({ length: 17 }, () => ({ pressed: false, value: 0 }));
  const axes = [0, 0, 0, 0, -1, -1];
  const queue = [];
  let connected = true;
  let changed = performance.now();
  const later = (ms, run) => queue.push([ms, run]);
  const set = (n, down) => {
    buttons[n - 1] = { pressed: down, value: down ? 1 : 0 };
  };
  // Each change follows the one before: on a busy machine a press takes longer, and is not lost.
  const settle = () => {
    const now = performance.now();
    if (!queue.length) changed = now;
    else if (now - changed >= queue[0][0]) {
      changed = now;
      queue.shift()[1]();
    }
    return now;
  };
  navigator.getGamepads = () => {
    if (!connected) return [null];
    const now = settle();
    return [
      {
        index: 0,
        id: "Handset with everything",
        connected: true,
        timestamp: Math.floor(now / REPORT_MS) * REPORT_MS,
        axes: [...axes],
        buttons: buttons.map((b) => ({ ...b })),
        mapping: "",
        vibrationActuator: {
          playEffect: async () => {
            window.handset.shaken = true;
          },
        },
      },
    ];
  };
  const press = (n, bounceMs = 0) => {
    for (const down of [true, false]) {
      later(90, () => set(n, down));
      if (bounceMs) {
        later(bounceMs / 2, () => set(n, !down));
        later(bounceMs / 2, () => set(n, down));
      }
    }
  };
  window.handset = {
    shaken: false,
    press,
    pressAll({ dead, stuck, squeezed, bouncing, bounceMs }) {
      for (let n = 1; n <= 17; n++) {
        if (n === dead || n === squeezed) continue;
        if (n === stuck) later(90, () => set(n, true));
        else press(n, n === bouncing ? bounceMs : 0);
      }
    },
    pull(axis, far) {
      for (let i = 1; i <= 40; i++) {
        const share = 1 - Math.abs(i / 20 - 1);
        later(12, () => {
          axes[axis] = -1 + (far + 1) * share;
        });
      }
      later(400, () => {});
    },
    squeeze(n, far) {
      for (let i = 1; i <= 40; i++) {
        const value = far * (1 - Math.abs(i / 20 - 1));
        later(12, () => {
          buttons[n - 1] = { pressed: value > 0.1, value };
        });
      }
      later(400, () => {});
    },
    unplug() {
      connected = false;
      const event = new Event("gamepaddisconnected");
      event.gamepad = { index: 0 };
      window.dispatchEvent(event);
    },
  };
})();
