import { type ReactNode, useState } from "react";
import type { Problem } from "../api/problem";

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

const SHORT = 320;

/**
 * Words as they were put: in any script, with their line ends, and never as anything but words. Long
 * ones begin short, unless whole.
 */
export function Words({
  text,
  className = "",
  whole = false,
}: {
  text: string;
  className?: string;
  whole?: boolean;
}) {
  const [all, setAll] = useState(whole);
  const cut = !all && text.length > SHORT;
  return (
    <span className={`words-kept ${className}`} dir="auto">
      {cut ? `${text.slice(0, SHORT)}…` : text}
      {!whole && text.length > SHORT && (
        <button type="button" className="plain link words-more" onClick={() => setAll(!all)}>
          {cut ? "All of it" : "Less of it"}
        </button>
      )}
    </span>
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

/** Instead of a page that could not be fetched. */
export function NotShown({ title, error }: { title: string; error: Error | null }) {
  return (
    <Page title={title}>
      <Trouble error={error} />
    </Page>
  );
}
