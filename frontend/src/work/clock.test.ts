import { expect, test } from "vitest";
import { clock } from "./clock";

test("what is left is never shown as less than it is, nor below nothing", () => {
  expect(clock(59.2)).toBe("1:00");
  expect(clock(59)).toBe("0:59");
  expect(clock(3600)).toBe("1:00:00");
  expect(clock(-3)).toBe("0:00");
});
