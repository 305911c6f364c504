import uPlot from "uplot";
import "uplot/dist/uPlot.min.css";

export interface Band {
  from: number;
  to: number;
  label: string;
}

export interface TraceOptions {
  height: number;
  /** Keep to ±110 % instead of the data's own range, and take no zoom: for a live trace. */
  fixed?: boolean;
  /** One axis: there is no y to draw. */
  single?: boolean;
  bands?: () => Band[];
  marks?: () => number[];
  spikes?: () => number[];
  focus?: () => Band | null;
  /** Told what lies under the cursor, or nothing. */
  readout?: (text: string) => void;
  /** Told when somebody zooms; what lies there may then be fetched. */
  zoomed?: (from: number, to: number) => void;
  /** Told when somebody asks for the whole again. */
  whole?: () => void;
}

function token(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

const font = (px: number) => `${px}px "Atkinson Hyperlegible Mono Variable", monospace`;

function drawBands(u: uPlot, options: TraceOptions): void {
  const { ctx } = u;
  const ratio = devicePixelRatio;
  ctx.save();
  const shade = (band: Band, alpha: number, color: string) => {
    const left = Math.max(u.valToPos(band.from, "x", true), u.bbox.left);
    const right = Math.min(u.valToPos(band.to, "x", true), u.bbox.left + u.bbox.width);
    if (right <= left) return;
    ctx.globalAlpha = alpha;
    ctx.fillStyle = color;
    ctx.fillRect(left, u.bbox.top, right - left, u.bbox.height);
    ctx.globalAlpha = 1;
    if (right - left > 40 * ratio && band.label) {
      ctx.fillStyle = token("--soft");
      ctx.font = `${12 * ratio}px "Atkinson Hyperlegible Next Variable", sans-serif`;
      ctx.fillText(band.label, left + 4 * ratio, u.bbox.top - 5 * ratio);
    }
  };
  (options.bands?.() ?? []).forEach((band, i) => {
    shade(band, i % 2 ? 0.05 : 0.1, token("--kelp"));
  });
  const focus = options.focus?.();
  if (focus) shade({ ...focus, label: "" }, 0.22, token("--ochre"));
  const tick = (at: number, top: number, color: string) => {
    const x = u.valToPos(at, "x", true);
    if (x < u.bbox.left || x > u.bbox.left + u.bbox.width) return;
    ctx.fillStyle = color;
    ctx.fillRect(x - ratio / 2, top, ratio, 7 * ratio);
  };
  for (const at of options.marks?.() ?? []) tick(at, u.bbox.top, token("--soft"));
  const foot = u.bbox.top + u.bbox.height - 7 * ratio;
  for (const at of options.spikes?.() ?? []) tick(at, foot, token("--brick"));
  ctx.restore();
}

const DASH = [5, 3];
const DENSE = 25;

/** y is dashed, except where the samples lie so dense that a dash cannot be seen, and costs most. */
function dashWhereItShows(u: uPlot): void {
  const [first, last] = u.series[0]?.idxs ?? [0, 0];
  const y = u.series[2];
  if (y) y.dash = last - first > DENSE * u.bbox.width ? [] : DASH;
}

/** Time and values under the cursor. */
function readout(u: uPlot): string {
  const at = u.cursor.idx;
  if (at === null || at === undefined) return "";
  const [t, x, y] = [0, 1, 2].map((i) => u.data[i]?.[at]);
  if (t == null || x == null || y == null) return "";
  const other = u.series[2]?.show ? `  y ${y.toFixed(1)}` : "";
  return `${t.toFixed(3)} s  x ${x.toFixed(1)}${other} %`.replaceAll("-", "−");
}

/** A double-click asks for the whole: of what is there, or of whoever fetches it. */
function whole(options: TraceOptions) {
  return (_: uPlot, __: HTMLElement, usual: (event: MouseEvent) => null) =>
    (event: MouseEvent): null => {
      if (!options.whole) return usual(event);
      options.whole();
      return null;
    };
}

/** x and y against time. x is drawn solid, y dashed. */
export function makeTrace(host: HTMLElement, options: TraceOptions): uPlot {
  const axis = {
    stroke: () => token("--soft"),
    grid: { stroke: () => token("--hair"), width: 1 },
    ticks: { stroke: () => token("--line"), width: 1, size: 4 },
    font: font(12),
  };
  return new uPlot(
    {
      width: Math.max(host.clientWidth, 200),
      height: options.height,
      padding: [options.fixed ? 8 : 20, 18, 0, 0],
      cursor: {
        show: !options.fixed,
        drag: { x: !options.fixed, y: false, setScale: !options.zoomed },
        bind: { dblclick: whole(options) },
        points: { show: false },
      },
      legend: { show: false },
      scales: { x: { time: false }, y: options.fixed ? { range: [-112, 112] } : {} },
      axes: [
        {
          ...axis,
          size: 24,
          gap: 2,
          values: (_, ticks) => ticks.map((v) => `${Number(v.toFixed(3))} s`),
        },
        {
          ...axis,
          size: 52,
          space: 22,
          values: (_, ticks) => ticks.map((v) => String(v).replace("-", "−")),
        },
      ],
      series: [
        {},
        {
          label: "x, solid",
          stroke: () => token("--ink"),
          width: 1.25,
          points: { show: false },
        },
        {
          label: "y, dashed",
          show: !options.single,
          stroke: () => token("--kelp"),
          width: 1.25,
          dash: DASH,
          points: { show: false },
        },
      ],
      hooks: {
        drawClear: [dashWhereItShows, (u) => drawBands(u, options)],
        setCursor: [(u) => options.readout?.(readout(u))],
        setSelect: [
          (u) => {
            if (!options.zoomed || u.select.width < 4) return;
            const { left, width } = u.select;
            options.zoomed(u.posToVal(left, "x"), u.posToVal(left + width, "x"));
            u.setSelect({ left: 0, top: 0, width: 0, height: 0 }, false);
          },
        ],
      },
    },
    [[], [], []],
    host,
  );
}
