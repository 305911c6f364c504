/** How wide a letter of an axis is, in the units of a plot 300 wide. */
const LETTER = 7.4;

/** Names along an axis with so much room for each: themselves where all of them fit, else numbers,
 * with the key to them in words. */
export function namesAlong(
  names: readonly string[],
  room: number,
): { marks: string[]; key: string } {
  if (names.every((name) => (name.length + 1) * LETTER <= room))
    return { marks: [...names], key: "" };
  const key = names.map((name, i) => `${i + 1} ${name}`).join(", ");
  return { marks: names.map((_, i) => String(i + 1)), key: `${key}. ` };
}

/** What a trace shows: both axes of a stick, or its only one. */
export function axesShown(single: boolean): string {
  return single ? "x" : "x and y";
}
