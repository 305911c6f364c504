import type { Schemas } from "../api/client";

/** Why else two takes cannot be compared, or what to bear in mind where they can. */
export function Cautions({ found }: { found: Schemas["ComparisonView"] }) {
  if (found.remarks.length === 0) return null;
  const label = found.comparison.refusals.length
    ? "Why else they cannot be compared"
    : "What was different besides the stick";
  return (
    <section className="problems" aria-label={label}>
      {found.remarks.map((text) => (
        <p key={text}>{text}</p>
      ))}
    </section>
  );
}
