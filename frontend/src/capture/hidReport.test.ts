import { expect, test } from "vitest";
import { axisOf, type ReportField } from "./hidReport";

const axis = (bit: number, size: number, lo: number, hi: number): ReportField => ({
  report: 0,
  bit,
  size,
  lo,
  hi,
});
const report = (...bytes: number[]) => new DataView(Uint8Array.from(bytes).buffer);

test("bits are read from the least on, across bytes", () => {
  expect(axisOf(report(0x34, 0x12), axis(0, 16, 0, 65535))).toBe(0x1234);
  expect(axisOf(report(0, 0, 0xab, 0xcd, 0xef), axis(16, 12, 0, 4095))).toBe(0xdab);
  expect(axisOf(report(0, 0, 0xab, 0xcd, 0xef), axis(28, 12, 0, 4095))).toBe(0xefc);
});

test("a range below zero makes the top bit a sign, all thirty-two bits of it too", () => {
  expect(axisOf(report(0xff), axis(0, 8, -127, 127))).toBe(-1);
  expect(axisOf(report(0x7f), axis(0, 8, -127, 127))).toBe(127);
  expect(axisOf(report(0xff), axis(0, 8, 0, 255))).toBe(255);
  const wide = axis(0, 32, -(2 ** 31), 2 ** 31 - 1);
  expect(axisOf(report(0, 0, 0, 0x80), wide)).toBe(-(2 ** 31));
  expect(axisOf(report(0xff, 0xff, 0xff, 0x7f), wide)).toBe(2 ** 31 - 1);
});

test("a value out of its range, or out of the report, is none", () => {
  expect(axisOf(report(0x80), axis(0, 8, -127, 127))).toBeNull();
  expect(axisOf(report(201), axis(0, 8, 0, 200))).toBeNull();
  expect(axisOf(report(1), axis(4, 8, 0, 255))).toBeNull();
});
