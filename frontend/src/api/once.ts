/**
 * What is asked is done once, however often it is sent: the same request gets the same key until it is
 * answered. One that was lost on the way keeps its key, so that asking again does nothing twice.
 */
const unanswered = new Map<string, string>();

export async function keyOf(request: Request): Promise<string | null> {
  const type = request.headers.get("Content-Type") ?? "";
  if (type.startsWith("multipart/")) return null;
  const asks = `${request.method} ${request.url}\n${await request.clone().text()}`;
  const key = unanswered.get(asks) ?? newKey();
  unanswered.set(asks, key);
  return key;
}

export function answered(key: string | null): void {
  for (const [asks, held] of unanswered) if (held === key) unanswered.delete(asks);
}

/** A page that is not served over TLS to another machine has no crypto.randomUUID. */
function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint32Array(4)), (n) => n.toString(36)).join("-");
}
