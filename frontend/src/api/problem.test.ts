import { expect, test } from "vitest";
import { lasting, Problem } from "./problem";

const answered = (status: number) => new Problem(undefined, status);

test.each([
  [0, false],
  [399, false],
  [400, true],
  [499, true],
  [500, false],
])("what came once stays unless it is refused: status %i", (status, gone) => {
  expect(lasting({ data: "a job", error: answered(status) }).error !== null).toBe(gone);
});

test("what never came is missed, whatever kept it", () => {
  const lost = new TypeError("lost");
  expect(lasting({ data: undefined, error: lost }).error).toBe(lost);
  expect(lasting({ data: undefined, error: null }).error).toBeNull();
});
