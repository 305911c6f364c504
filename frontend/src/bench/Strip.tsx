import { useQuery } from "@tanstack/react-query";
import { NavLink } from "react-router";
import type { Schemas } from "../api/client";
import { catalogueQuery } from "../api/queries";
import { stickName } from "../app/format";
import { Pins } from "./Pins";
import "./bench.css";

/** A job in the tray. under: the heading it lies under, which need not be said again. */
export function Strip({ strip, under }: { strip: Schemas["Strip"]; under: string }) {
  const { pins, ...job } = strip;
  const { data: catalogue } = useQuery(catalogueQuery);
  const words = [
    job.next !== under && job.next,
    stickName(job.stick),
    job.waiting && `waits for ${catalogue?.take_in.waiting[job.waiting] ?? job.waiting}`,
  ].filter(Boolean);
  return (
    <li>
      <NavLink
        to={`/jobs/${job.job_id}/${job.place}`}
        className={() =>
          `strip ${window.location.pathname.startsWith(`/jobs/${job.job_id}/`) ? "here" : ""}`
        }
      >
        <span className="strip-words">
          <span>
            <strong className="figures">{job.tag}</strong> {job.model}
          </span>
          <span className="soft">
            {job.refer && <span className="refer-mark">refer</span>} {words.join(" · ")}
          </span>
        </span>
        <Pins pins={pins} />
      </NavLink>
    </li>
  );
}
