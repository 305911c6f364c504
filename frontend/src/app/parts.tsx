import { type ReactNode, useState } from "react";
import type { Problem } from "../api/client";

export function Loading({ what }: { what: string }) {
  return (
    <p className="page soft" role="status">
      Loading {what}…
    </p>
  );
}

/** What the server said went wrong. */
export function Trouble({ error }: { error: Error | Problem | null }) {
  return error ? (
    <p className="trouble" role="alert">
      {error.message}
    </p>
  ) : null;
}

/** Removes something for good, and so asks once more. */
export function Remove({ label, run }: { label: string; run: () => void }) {
  const [sure, setSure] = useState(false);
  return sure ? (
    <>
      <button type="button" className="plain link over" onClick={run}>
        Yes, {label} for good
      </button>
      <button type="button" className="plain link" onClick={() => setSure(false)}>
        Keep it
      </button>
    </>
  ) : (
    <button type="button" className="plain link" onClick={() => setSure(true)}>
      {label}
    </button>
  );
}

export function Page({ children, title }: { children?: ReactNode; title?: string }) {
  return (
    <section className="page">
      {title && <h1 className="sentence">{title}</h1>}
      {children}
    </section>
  );
}
