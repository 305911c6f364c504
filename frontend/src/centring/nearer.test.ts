import { expect, test } from "vitest";
import { pitchOf } from "./nearer";

test("the nearer the higher, and no higher than where it is to be stopped", () => {
  expect(pitchOf(16)).toBe(220);
  expect(pitchOf(100)).toBe(220);
  expect(pitchOf(4)).toBeCloseTo(440);
  expect(pitchOf(1)).toBeCloseTo(880);
  expect(pitchOf(0.2)).toBeCloseTo(880);
  expect(pitchOf(3)).toBeGreaterThan(pitchOf(3.5));
});
