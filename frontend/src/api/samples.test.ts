import { expect, test } from "vitest";
import { between, decodeEnvelope, decodeSamples, lowerBound } from "./samples";

function sent(n: number, axes: number): ArrayBuffer {
  const body = new ArrayBuffer(8 + 4 * n * (axes + 1) + n);
  new Uint32Array(body, 0, 2).set([n, axes]);
  for (let column = 0; column <= axes; column++) {
    new Float32Array(body, 8 + 4 * n * column, n).forEach((_, i, all) => {
      all[i] = column ? column * 10 + i : i;
    });
  }
  new Int8Array(body, 8 + 4 * n * (axes + 1), n).fill(-1);
  return body;
}

test("samples come out column by column, of one axis or two", () => {
  const two = decodeSamples(sent(4, 2));
  expect([...two.t]).toEqual([0, 1, 2, 3]);
  expect(two.u.map((u) => [...u])).toEqual([
    [10, 11, 12, 13],
    [20, 21, 22, 23],
  ]);
  expect([...two.step]).toEqual([-1, -1, -1, -1]);
  expect(decodeSamples(sent(3, 1)).u).toHaveLength(1);
});

test("a stretch begins with its first moment and ends before its last", () => {
  const samples = decodeSamples(sent(5, 1));
  expect(between(samples, 1, 3)).toEqual({ x: [11, 12], y: [0, 0] });
  expect(between(samples, 9, 12)).toEqual({ x: [], y: [] });
  expect([lowerBound(samples.t, -1), lowerBound(samples.t, 2), lowerBound(samples.t, 99)]).toEqual([
    0, 2, 5,
  ]);
});

test("an envelope says whether samples were left out", () => {
  const body = new ArrayBuffer(16 + 8 * 2 + 4 * 2);
  new Uint32Array(body, 0, 3).set([2, 1, 1]);
  new Float64Array(body, 16, 2).set([0.5, 1.5]);
  new Float32Array(body, 32, 2).set([7, 8]);
  const found = decodeEnvelope(body);
  expect(found.decimated).toBe(true);
  expect([...found.t]).toEqual([0.5, 1.5]);
  expect([...(found.u[0] ?? [])]).toEqual([7, 8]);
});
