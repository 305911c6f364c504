import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { Link } from "react-router";
import { donorsQuery } from "../api/queries";
import "./parts.css";

/** Which donor's module goes in, the best first by what it last read. */
export function PickDonor({
  jobId,
  lot,
  choose,
}: {
  jobId: number;
  lot: string;
  choose: (lot: string) => void;
}) {
  const name = useId();
  const { data: found } = useQuery(donorsQuery(jobId));
  if (!found) return null;
  if (found.length === 0) return <p className="soft">There is no donor of this model.</p>;
  return (
    <fieldset className="pick-part">
      <legend>From which donor</legend>
      {found.map((d) => (
        <label key={d.lot}>
          <input
            type="radio"
            name={name}
            checked={lot === d.lot}
            disabled={d.donor.standing === "taken"}
            onChange={() => choose(d.lot)}
          />
          <span>
            <strong>{d.donor.tag}</strong>{" "}
            <span className={d.donor.standing === "over" ? "over" : "soft"}>{d.donor.says}</span>
          </span>
        </label>
      ))}
    </fieldset>
  );
}

/** Every donor of the shop. */
export function Donors() {
  const { data: found } = useQuery(donorsQuery(null));
  if (!found || found.length === 0) return null;
  return (
    <section className="block" aria-label="Donors">
      <h2>Donors</h2>
      <ul className="rows">
        {found.map((d) => (
          <li key={d.lot}>
            <Link to={`/controllers/${d.donor.controller_id}`}>{d.donor.tag}</Link>
            <span className={d.donor.standing === "over" ? "over" : ""}>{d.donor.says}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
