// A device with raw reports, for a browser that is given none. Report 2: twelve buttons, four bits of
// nothing, x and y of twelve bits each, both unsigned; 250 a second, in batches of two.
(() => {
  const item = (usages, reportSize, reportCount, logicalMaximum, more = {}) => ({
    isAbsolute: true,
    isArray: false,
    isConstant: false,
    isRange: false,
    usages,
    reportSize,
    reportCount,
    logicalMinimum: 0,
    logicalMaximum,
    ...more,
  });
  class Device extends EventTarget {
    opened = false;
    productName = "Plover raw";
    vendorId = 1;
    productId = 2;
    collections = [
      {
        usagePage: 1,
        usage: 5,
        inputReports: [
          {
            reportId: 2,
            items: [
              item([], 1, 12, 1, { isRange: true, usageMinimum: 0x90001, usageMaximum: 0x9000c }),
              item([], 4, 1, 1, { isConstant: true }),
              item([0x10030, 0x10031], 12, 2, 4095),
            ],
          },
        ],
        outputReports: [],
        featureReports: [],
        children: [],
      },
    ];
    async open() {
      this.opened = true;
      beat();
    }
  }
  const device = new Device();
  const state = { x: 2130, y: 2040, wobble: 1, allowed: false, plugged: true };
  const hid = new EventTarget();
  hid.getDevices = async () => (state.allowed && state.plugged ? [device] : []);
  hid.requestDevice = async () => {
    state.allowed = true;
    return [device];
  };
  let timer = 0;
  let n = 0;
  function send(at) {
    n += 1;
    const shake = state.wobble * Math.round(2 * Math.sin(n * 1.7) + Math.sin(n * 0.61));
    const [x, y] = [state.x + shake, state.y - shake].map((v) => Math.min(4095, Math.max(0, v)));
    const bytes = [0, 0, x & 255, (x >> 8) | ((y & 15) << 4), y >> 4];
    const event = new Event("inputreport");
    Object.defineProperty(event, "timeStamp", { value: at });
    Object.assign(event, { device, reportId: 2, data: new DataView(new Uint8Array(bytes).buffer) });
    device.dispatchEvent(event);
  }
  let next = 0;
  function beat() {
    if (timer) return;
    next = performance.now();
    timer = setInterval(() => {
      const now = performance.now();
      while (state.plugged && next < now) {
        send(next);
        next += 4;
      }
    }, 8);
  }
  window.raw = {
    state,
    /** Resolves once the page has had a report, and a frame to look at it. */
    seen: () =>
      new Promise((done) => {
        const later = () => requestAnimationFrame(() => requestAnimationFrame(done));
        device.addEventListener("inputreport", later, { once: true });
      }),
    unplug() {
      state.plugged = false;
      const event = new Event("disconnect");
      Object.assign(event, { device });
      hid.dispatchEvent(event);
    },
  };
  Object.defineProperty(navigator, "hid", { value: hid, configurable: true });
})();
