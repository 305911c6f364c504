interface Heard<Message> {
  /** What came as text; a refusal is none of these. */
  message: (message: Message) => void;
  /** What came as bytes, where anything does. */
  bytes?: (data: ArrayBuffer) => void;
  /** It is over. Why, where it was refused or lost; null where both sides had said all. */
  closed: (because: string | null) => void;
}

const NORMAL = 1000;

interface Refusal {
  type: "refused";
  message: string;
}

const isRefusal = (message: { type: string }): message is Refusal => message.type === "refused";

/** A line to the server: what is said over it, and why it closed. */
export function openLine<Message extends { type: string }>(
  path: string,
  heard: Heard<Message>,
): WebSocket {
  const scheme = window.location.protocol === "https:" ? "wss" : "ws";
  const socket = new WebSocket(`${scheme}://${window.location.host}${path}`);
  socket.binaryType = "arraybuffer";
  let refused: string | null = null;
  socket.onmessage = ({ data }) => {
    if (data instanceof ArrayBuffer) {
      heard.bytes?.(data);
      return;
    }
    const message: Message | Refusal = JSON.parse(String(data));
    if (isRefusal(message)) refused = message.message;
    else heard.message(message);
  };
  socket.onclose = ({ code }) =>
    heard.closed(refused ?? (code === NORMAL ? null : "The connection to the server was lost."));
  return socket;
}
