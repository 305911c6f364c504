/** A number as it is read at the bench: one decimal, never a minus before a zero. */
export function decimal(value: number, digits = 1): string {
  const text = value.toFixed(digits);
  return Number(text) === 0 ? (0).toFixed(digits) : text.replace("-", "−");
}

/** A value and twice its standard uncertainty, with the digits that the uncertainty bears. */
export function withUncertainty(
  value: number,
  u: number | null | undefined,
): { value: string; plusMinus: string | null } {
  if (u === null || u === undefined) return { value: decimal(value), plusMinus: null };
  if (u === 0) return { value: decimal(value, value % 1 ? 1 : 0), plusMinus: null };
  const digits = 2 * u >= 9.95 ? 0 : 2 * u < 0.095 && Math.abs(value) < 10 ? 2 : 1;
  return { value: decimal(value, digits), plusMinus: decimal(2 * u, digits) };
}

/** The decimals that are read at the bench in a unit. */
export function digitsOf(unit: string): number {
  return unit === "%" ? 1 : unit === "%/min" ? 2 : 0;
}

export function withUnit(value: number | null | undefined, unit: string): string {
  if (value === null || value === undefined) return "–";
  return `${decimal(value, digitsOf(unit))} ${unit}`.trim();
}

/** A probability, 0 to 1, in whole per cents; nothing is certain, so never all of it. */
export function share(probability: number): string {
  return probability >= 0.995 ? "> 99 %" : `${Math.round(100 * probability)} %`;
}

export function signed(value: number, unit: string): string {
  const text = decimal(Math.abs(value), digitsOf(unit));
  const sign = Number(text) === 0 ? "" : value > 0 ? "+" : "−";
  return `${sign}${text}`;
}

/** The clock hour of a point: x to the right, y up. */
export function clockHour(x: number, y: number): number {
  const bearing = (Math.atan2(x, y) * 180) / Math.PI;
  return (Math.floor(bearing / 30 + 0.5) + 12) % 12 || 12;
}

/** What lies toward a bearing: a clock hour, or the end of a single axis. */
export function place(bearing: number, axes: number): string {
  const b = (bearing * Math.PI) / 180;
  if (axes === 1) return Math.sin(b) < 0 ? "low end" : "high end";
  return `${clockHour(Math.sin(b), Math.cos(b))} o’clock`;
}

// Intl takes tens of milliseconds to begin with, on every page, for what is said in one language.
const MONTHS = "Jan Feb Mar Apr May Jun Jul Aug Sept Oct Nov Dec".split(" ");

function dayAndMonth(at: Date): string {
  return `${at.getDate()} ${MONTHS[at.getMonth()]}`;
}

export function time(iso: string): string {
  const at = new Date(iso);
  return [at.getHours(), at.getMinutes()].map((n) => String(n).padStart(2, "0")).join(":");
}

/** A day with its year, whichever it is. */
export function date(iso: string): string {
  const at = new Date(iso);
  return `${dayAndMonth(at)} ${at.getFullYear()}`;
}

/** A day, with its year where that is another one than now. */
export function day(iso: string, now: Date = new Date()): string {
  const at = new Date(iso);
  const day = at.getFullYear() === now.getFullYear() ? dayAndMonth(at) : date(iso);
  return day.replaceAll(" ", "\u00a0");
}

/** Time of day today, with the day before it on other days. */
export function moment(iso: string): string {
  const today = new Date().toDateString() === new Date(iso).toDateString();
  return today ? time(iso) : `${day(iso)} ${time(iso)}`;
}

export function sourceName(kind: string, name: string): string {
  return kind === "stand-in" ? "Stand-in" : name;
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** “left stick”; other names, such as “stick” or “paddle”, stand by themselves. */
export function stickName(stick: string): string {
  return stick === "left" || stick === "right" ? `${stick} stick` : stick;
}

/** A length of time as it is said: 40 s, 12 min, 3 h. */
export function duration(seconds: number): string {
  if (seconds < 100) return `${Math.round(seconds)} s`;
  return seconds < 7200 ? `${Math.round(seconds / 60)} min` : `${Math.round(seconds / 3600)} h`;
}

/** What is typed into a number field; NaN while it is empty. */
export function numberOf(text: string): number {
  return text === "" ? Number.NaN : Number(text);
}
