import type { Schemas } from "../api/client";

/** Why two takes cannot be compared, or what to bear in mind where they can. */
export function Cautions({ comparison }: { comparison: Schemas["Comparison"] }) {
  const said = [...comparison.refusals, ...comparison.cautions];
  if (said.length === 0) return null;
  const label = comparison.refusals.length
    ? "Why they cannot be compared"
    : "What was different besides the stick";
  return (
    <section className="problems" aria-label={label}>
      {said.map((text) => (
        <p key={text}>{text}</p>
      ))}
    </section>
  );
}
