import type { ReactNode } from "react";
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

export function Page({ children, title }: { children?: ReactNode; title?: string }) {
  return (
    <section className="page">
      {title && <h1 className="sentence">{title}</h1>}
      {children}
    </section>
  );
}
