import { expect, test } from "vitest";
import { namesAlong } from "./names";

test("ten sticks side by side are told apart, and two are called by their names", () => {
  const names = ["GS-061 left", "GS-061 right"];
  expect(namesAlong(names, 118)).toEqual({ marks: names, key: "" });
  const ten = namesAlong(names, 24);
  expect(ten.marks).toEqual(["1", "2"]);
  expect(ten.key).toBe("1 GS-061 left, 2 GS-061 right. ");
});

test("a name that just fits stands, one letter more does not", () => {
  expect(namesAlong(["1234"], 37).key).toBe("");
  expect(namesAlong(["12345"], 37).key).not.toBe("");
});
