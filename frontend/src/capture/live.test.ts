import { expect, test } from "vitest";
import { Recent, WINDOW_S } from "./live";

function fed(seconds: number, rate: number, at = 0): Recent {
  const recent = new Recent();
  const n = seconds * rate;
  const t = Float64Array.from({ length: n }, (_, i) => at + i / rate);
  for (let from = 0; from < n; from += 50) {
    const part = t.slice(from, from + 50);
    recent.add(part, [Float32Array.from(part), Float32Array.from(part, (v) => -v)]);
  }
  return recent;
}

test("the last seconds stay, whatever came before, at the rate that they came at", () => {
  const recent = fed(120, 1000);
  const [t, x, y] = recent.window();
  expect(t.at(-1)).toBeCloseTo(119.999);
  expect((t.at(-1) as number) - (t[0] as number)).toBeLessThanOrEqual(WINDOW_S);
  expect(t.length).toBeGreaterThan(0.99 * WINDOW_S * 1000);
  expect(x[5]).toBeCloseTo(t[5] as number, 3);
  expect(y[5]).toBeCloseTo(-(t[5] as number), 3);
  expect(recent.rateHz).toBeCloseTo(1000, 0);
  expect(recent.gaps).toBe(0);
});

test("missing samples are counted, a slow source’s pace is not", () => {
  const recent = fed(2, 60);
  recent.add(Float64Array.of(3), [Float32Array.of(0), Float32Array.of(0)]);
  expect(recent.gaps).toBe(1);
  expect(fed(3, 60).gaps).toBe(0);
});

test("where the stick is now is the newest sample, and nothing before the first", () => {
  expect(new Recent().position()).toBeNull();
  const recent = new Recent();
  recent.add(Float64Array.of(0, 1), [Float32Array.of(3, 4)]);
  expect(recent.position()).toEqual({ x: 4, y: 0 });
});
