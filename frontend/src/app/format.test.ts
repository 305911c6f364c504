import { describe, expect, test } from "vitest";
import {
  clockHour,
  day,
  decimal,
  duration,
  numberOf,
  place,
  share,
  signed,
  stickName,
  withUncertainty,
} from "./format";

describe("numbers as they are read at the bench", () => {
  test("there is never a minus before a zero", () => {
    expect(decimal(-0.04)).toBe("0.0");
    expect(decimal(-0.06)).toBe("−0.1");
    expect(signed(0.04, "%")).toBe("0.0");
    expect(signed(-2.34, "%")).toBe("−2.3");
    expect(signed(3, "")).toBe("+3");
  });

  test("nothing is said to be certain", () => {
    expect(share(0.9949)).toBe("99 %");
    expect(share(0.995)).toBe("> 99 %");
    expect(share(1)).toBe("> 99 %");
    expect(share(0.004)).toBe("0 %");
  });

  test("a value has the digits that its uncertainty bears", () => {
    expect(withUncertainty(8.123, 0.3)).toEqual({ value: "8.1", plusMinus: "0.6" });
    expect(withUncertainty(8.123, 0.04)).toEqual({ value: "8.12", plusMinus: "0.08" });
    expect(withUncertainty(81.23, 0.04)).toEqual({ value: "81.2", plusMinus: "0.1" });
    expect(withUncertainty(123.4, 5)).toEqual({ value: "123", plusMinus: "10" });
    expect(withUncertainty(4, 0)).toEqual({ value: "4", plusMinus: null });
    expect(withUncertainty(4, undefined)).toEqual({ value: "4.0", plusMinus: null });
  });

  test("a single axis has two ends, and a stick its hours", () => {
    expect([place(90, 1), place(270, 1), place(92, 1), place(268, 1)]).toEqual([
      "high end",
      "low end",
      "high end",
      "low end",
    ]);
    expect([place(0, 2), place(270, 2)]).toEqual(["12 o’clock", "9 o’clock"]);
  });

  test("up is twelve o’clock, right is three", () => {
    expect([clockHour(0, 1), clockHour(1, 0), clockHour(0, -1), clockHour(-1, 0)]).toEqual([
      12, 3, 6, 9,
    ]);
    expect(clockHour(0.25, 1)).toBe(12);
    expect(clockHour(0.28, 1)).toBe(1);
  });

  test("a time is said in the unit that it is thought of in", () => {
    expect([duration(99), duration(100), duration(7199), duration(7200)]).toEqual([
      "99 s",
      "2 min",
      "120 min",
      "2 h",
    ]);
  });

  test("a day of another year says so", () => {
    const now = new Date("2026-11-26T12:00:00Z");
    expect(day("2026-03-02T12:00:00Z", now)).toBe("2\u00a0Mar");
    expect(day("2025-12-31T12:00:00Z", now)).toBe("31\u00a0Dec\u00a02025");
  });

  test("an empty field is no number, and no zero", () => {
    expect(numberOf("")).toBeNaN();
    expect(numberOf("0")).toBe(0);
  });

  test("left and right are sticks, a paddle is itself", () => {
    expect(["left", "right", "paddle"].map(stickName)).toEqual([
      "left stick",
      "right stick",
      "paddle",
    ]);
  });
});
