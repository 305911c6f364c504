import { expect, test } from "vitest";
import { CALIBRATED, heldBy, ownOf } from "./own";

const X = { low: 410, centre: 2070, high: 3640 };

test("what is known comes back as it was sent", () => {
  for (const held of [null, "unknown" as const, { x: X, y: { ...X, low: -5 } }]) {
    expect(heldBy(ownOf(held), 2)).toEqual(held);
  }
  expect(heldBy(ownOf({ x: X, y: null }), 1)).toEqual({ x: X, y: null });
});

test("a take does not begin while a number is missing, or is none", () => {
  const own = { ...ownOf({ x: X, y: X }) };
  expect(heldBy({ ...own, y: ["", "2", "3"] }, 2)).toBeUndefined();
  expect(heldBy({ ...own, x: ["1", "two", "3"] }, 2)).toBeUndefined();
  expect(heldBy({ ...own, y: ["", "", ""] }, 1)).toEqual({ x: X, y: null });
  expect(heldBy({ ...CALIBRATED, says: "known" }, 1)).toBeUndefined();
});
