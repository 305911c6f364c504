import type { Schemas } from "../api/client";
import { openLine } from "../app/line";

export type Progress = Schemas["Progress"];
export type StepName = Schemas["Routine"]["steps"][number];

export interface TakeEnd {
  /** before: it had ended when the page asked for it. */
  state: "complete" | "interrupted" | "before";
  because: string | null;
}

export interface LiveListener {
  progress: (progress: Progress, notes: Record<string, string>) => void;
  samples: (t: Float64Array, u: Float32Array[]) => void;
  ended: (ended: TakeEnd) => void;
  error: (message: string) => void;
  /** Why samples wait for the database; null once they do no more. */
  heldUp: (why: string | null) => void;
  /** Why, where it was refused or lost. */
  closed: (because: string | null) => void;
}

export const WINDOW_S = 12;
const ROOM = 40_000;

/** The last seconds of a live take, in arrays that are filled and shifted, never rebuilt. */
export class Recent {
  private t = new Float64Array(ROOM);
  private u = [new Float32Array(ROOM), new Float32Array(ROOM)];
  private n = 0;
  private seen = 0;
  private first = 0;
  gaps = 0;
  rateHz: number | null = null;

  add(t: Float64Array, u: Float32Array[]): void {
    if (t.length === 0) return;
    if (this.n + t.length > ROOM) this.shift(t[0] as number);
    if (this.seen === 0) this.first = t[0] as number;
    this.count(t);
    this.t.set(t, this.n);
    u.forEach((axis, i) => {
      this.u[i]?.set(axis, this.n);
    });
    this.n += t.length;
  }

  private count(t: Float64Array): void {
    const before = this.n > 0 ? (this.t[this.n - 1] as number) : (t[0] as number);
    const usual = this.rateHz === null ? Number.POSITIVE_INFINITY : 3 / this.rateHz;
    let previous = before;
    for (const at of t) {
      if (at - previous > usual) this.gaps += 1;
      previous = at;
    }
    this.seen += t.length;
    const lasted = previous - this.first;
    if (lasted > 0.5) this.rateHz = (this.seen - 1) / lasted;
  }

  private shift(now: number): void {
    let from = 0;
    while (from < this.n && (this.t[from] as number) < now - WINDOW_S) from += 1;
    from = Math.max(from, this.n - ROOM / 2);
    for (const a of [this.t, ...this.u]) a.copyWithin(0, from, this.n);
    this.n -= from;
  }

  /** Views on the last seconds: times, x, y. */
  window(): [Float64Array, Float32Array, Float32Array] {
    const now = this.n ? (this.t[this.n - 1] as number) : 0;
    let low = 0;
    let high = this.n;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.t[middle] as number) < now - WINDOW_S) low = middle + 1;
      else high = middle;
    }
    return [
      this.t.subarray(low, this.n),
      (this.u[0] as Float32Array).subarray(low, this.n),
      (this.u[1] as Float32Array).subarray(low, this.n),
    ];
  }

  /** Where the stick is now, % of half range; y is 0 for a single axis. */
  position(): { x: number; y: number } | null {
    if (this.n === 0) return null;
    return { x: this.u[0]?.[this.n - 1] ?? 0, y: this.u[1]?.[this.n - 1] ?? 0 };
  }
}

type Said =
  | (Progress & { type: "progress"; notes: Record<string, string> })
  | (TakeEnd & { type: "ended" })
  | { type: "held-up" | "error"; message: string };

/** The WebSocket of a running take. */
export class LiveTake {
  private socket: WebSocket;
  private unsaid: string[] = [];

  constructor(takeId: number, query: URLSearchParams, heard: LiveListener) {
    this.socket = openLine<Said>(`/api/takes/${takeId}/live?${query}`, {
      bytes: (data) => {
        const n = new Uint32Array(data, 0, 1)[0] ?? 0;
        const t = new Float64Array(data.slice(4, 4 + 8 * n));
        const rest = data.slice(4 + 8 * n);
        const axes = n ? rest.byteLength / (4 * n) : 0;
        heard.samples(
          t,
          Array.from({ length: axes }, (_, i) => new Float32Array(rest, 4 * n * i, n)),
        );
      },
      message: (message) => {
        if (message.type === "progress") heard.progress(message, message.notes);
        else if (message.type === "ended") heard.ended(message);
        else if (message.type === "held-up") heard.heldUp(message.message);
        else if (message.type === "error") heard.error(message.message);
      },
      closed: heard.closed,
    });
    this.socket.onopen = () => {
      for (const command of this.unsaid.splice(0)) this.socket.send(command);
    };
  }

  get open(): boolean {
    return this.socket.readyState === WebSocket.OPEN;
  }

  /** What is said before the line stands waits for it: a stop must not be lost. */
  say(command: Record<string, unknown>): void {
    const text = JSON.stringify(command);
    if (this.open) this.socket.send(text);
    else if (this.socket.readyState === WebSocket.CONNECTING) this.unsaid.push(text);
  }

  send(frame: Float64Array<ArrayBuffer>): void {
    if (this.open) this.socket.send(frame);
  }

  close(): void {
    this.socket.onclose = null;
    this.socket.close();
  }
}
