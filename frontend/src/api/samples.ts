/** All samples of a take: seconds, % of half range by axis, and the step of each (−1 for none). */
export interface Samples {
  t: Float32Array;
  u: Float32Array[];
  step: Int8Array;
}

export const STEPS = [
  "still",
  "let-go",
  "rim",
  "crossing-x",
  "crossing-y",
  "hold",
  "turn",
] as const;

export function decodeSamples(body: ArrayBuffer): Samples {
  const head = new Uint32Array(body, 0, 2);
  const n = head[0] ?? 0;
  const axes = head[1] ?? 0;
  const column = (i: number) => new Float32Array(body, 8 + 4 * n * i, n);
  return {
    t: column(0),
    u: Array.from({ length: axes }, (_, i) => column(i + 1)),
    step: new Int8Array(body, 8 + 4 * n * (axes + 1), n),
  };
}

/** Points for the eye: seconds, % by axis; decimated where samples were left out. */
export interface Envelope {
  t: Float64Array;
  u: Float32Array[];
  decimated: boolean;
}

export function decodeEnvelope(body: ArrayBuffer): Envelope {
  const [n = 0, axes = 0, decimated = 0] = new Uint32Array(body, 0, 3);
  return {
    t: new Float64Array(body, 16, n),
    u: Array.from({ length: axes }, (_, i) => new Float32Array(body, 16 + 8 * n + 4 * n * i, n)),
    decimated: decimated === 1,
  };
}

/** The samples from one moment to another, seconds. */
export function between(samples: Samples, from: number, to: number): { x: number[]; y: number[] } {
  const first = lowerBound(samples.t, from);
  const last = lowerBound(samples.t, to);
  const part = (i: number) => Array.from(samples.u[i]?.subarray(first, last) ?? []);
  const x = part(0);
  return { x, y: samples.u.length > 1 ? part(1) : x.map(() => 0) };
}

export function lowerBound(sorted: Float32Array, value: number): number {
  let low = 0;
  let high = sorted.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((sorted[middle] as number) < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
