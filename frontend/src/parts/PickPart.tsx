import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { jobPartsQuery } from "../api/queries";
import { day } from "../app/format";
import "./parts.css";

type PartOffer = Schemas["PartOffer"];
const MOST_PARTS = 5;

const FIT_WORDS: Record<PartOffer["fit"]["fits"], string> = {
  fits: "fits",
  unknown: "to be held on",
  "other-value": "another value",
  not: "does not fit",
};

/** What lies on the shelf for a remedy, the best first; one of it is used when the work is logged. */
export function PickPart({
  jobId,
  remedy,
  stick,
  chosen,
  choose,
}: {
  jobId: number;
  remedy: string;
  stick: string;
  chosen: number | null;
  choose: (part: Schemas["ShelfPart"] | null) => void;
}) {
  const name = useId();
  const { data: found } = useQuery(jobPartsQuery(jobId, remedy, stick));
  if (!found || (found.offered.length === 0 && found.awaited.length === 0)) return null;
  return (
    <fieldset className="pick-part">
      <legend>Which part, from the shelf</legend>
      <label>
        <input type="radio" name={name} checked={chosen === null} onChange={() => choose(null)} />
        <span>None from the shelf</span>
      </label>
      {found.offered.slice(0, MOST_PARTS).map((o) => (
        <label key={o.line.part.id} className={o.fit.fits}>
          <input
            type="radio"
            name={name}
            checked={chosen === o.line.part.id}
            disabled={!o.usable}
            onChange={() => choose(o.line.part)}
          />
          <span>
            <strong>{o.line.part.facts.name}</strong>{" "}
            <em className={o.fit.fits === "fits" ? "good" : "near"}>{FIT_WORDS[o.fit.fits]}</em>{" "}
            <span className="soft">
              {o.held > 0 ? `${o.held} reserved for this job, ` : ""}
              {o.line.free} free{o.line.part.facts.place && `, ${o.line.part.facts.place}`}
            </span>
            {o.fit.words.length > 0 && <small>{o.fit.words.join(" ")}</small>}
          </span>
          {!o.usable && (
            <Link to={`/orders?new=1&part=${o.line.part.id}&job=${jobId}`}>Order it</Link>
          )}
        </label>
      ))}
      {found.awaited.map((a) => (
        <p key={a.order_id} className="soft">
          {a.count} to come from {a.source}
          {a.expected_on && `, expected ${day(a.expected_on)}`}
          {a.late && <strong className="near"> late</strong>}
        </p>
      ))}
    </fieldset>
  );
}
