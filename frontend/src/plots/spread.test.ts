import { expect, test } from "vitest";
import { spread } from "./spread";

test("labels that lie apart stay where they are", () => {
  expect(spread([10, 40, 25], 12, 0, 100)).toEqual([10, 40, 25]);
});

test("labels of lines that end together are read one below the other", () => {
  expect(spread([30, 31], 12, 0, 100)).toEqual([30, 42]);
  expect(spread([31, 30], 12, 0, 100)).toEqual([42, 30]);
});

test("none leaves the drawing, at its foot or its head", () => {
  expect(spread([98, 99, 97], 12, 0, 100)).toEqual([88, 100, 76]);
  expect(spread([-5, 2], 12, 4, 100)).toEqual([4, 16]);
});
