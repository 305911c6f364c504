import type { Schemas } from "../api/client";

/** Why two takes cannot be compared, or what to bear in mind where they can. */
export function Cautions({ comparison }: { comparison: Schemas["Comparison"] }) {
  const sentences = [...comparison.refusals, ...comparison.cautions];
  if (sentences.length === 0) return null;
  const label = comparison.refusals.length
    ? "Why they cannot be compared"
    : "What was different besides the stick";
  return (
    <section className="problems" aria-label={label}>
      {sentences.map((text) => (
        <p key={text}>{text}</p>
      ))}
    </section>
  );
}
