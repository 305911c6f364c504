/** Seconds as minutes and seconds, hours before them where there are any. */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  const two = (n: number) => String(n).padStart(2, "0");
  const minutes = Math.floor(whole / 60);
  if (minutes < 60) return `${minutes}:${two(whole % 60)}`;
  return `${Math.floor(minutes / 60)}:${two(minutes % 60)}:${two(whole % 60)}`;
}
