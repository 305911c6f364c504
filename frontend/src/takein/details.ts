import type { Schemas } from "../api/client";

export type JobDetails = Schemas["JobDetailsBody"] & { intake: Schemas["IntakeBody"] };

/** What was told of a job, as it is sent back when something of it changes. */
export function detailsOf(job: Schemas["Job"]): JobDetails {
  const { stick, complaint, moves, intake } = job;
  return {
    stick,
    complaint,
    moves,
    intake: { ...intake, hours: [...intake.hours], tried: [...intake.tried] },
  };
}

export function same(a: JobDetails, b: JobDetails): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}
