/** Places for labels beside what they name, so far apart that none lies on another and all lie within
 *  bounds: each as near its own place as its neighbours let it. */
export function spread(places: number[], apart: number, least: number, most: number): number[] {
  const order = places.map((_, i) => i).sort((a, b) => (places[a] ?? 0) - (places[b] ?? 0));
  const out = [...places];
  let below = least;
  for (const i of order) {
    out[i] = Math.max(out[i] ?? 0, below);
    below = (out[i] ?? 0) + apart;
  }
  let above = most;
  for (const i of order.reverse()) {
    out[i] = Math.min(out[i] ?? 0, above);
    above = (out[i] ?? 0) - apart;
  }
  return out;
}
