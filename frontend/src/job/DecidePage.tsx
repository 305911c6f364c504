import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { takeQuery } from "../api/queries";
import { stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { Pin } from "../plots/Pin";
import { pinOf } from "../readings/pin";
import { useJobView } from "./JobMat";

const REMEDY = {
  recalibrated: "Recalibrate",
  cleaned: "Clean the sensor housing",
  replaced: "Replace the module",
} as const;

/** Which fault, which remedy, worth it or not. */
export function DecidePage() {
  const view = useJobView();
  const { job } = view;
  const latest = view.takes.filter((t) => t.stick === job.stick && t.usable).at(-1);
  const { data: take, error } = useQuery({
    ...takeQuery(latest?.id ?? 0),
    enabled: latest !== undefined,
  });
  if (!latest) {
    return (
      <Page title="There is nothing to decide on yet.">
        <p className="lead">A usable take of the {stickName(job.stick)} comes first.</p>
        <Button component={Link} to={`/jobs/${job.id}/prove`} variant="contained">
          Measure it
        </Button>
      </Page>
    );
  }
  const refer = job.controller.refer;
  return (
    <section className="page">
      <Trouble error={error} />
      {take?.meaning && (
        <>
          <header className="headline">
            <Pin {...pinOf(take)} size={112} label="" />
            <div>
              <h1 className="sentence">{take.meaning.sentence}</h1>
              <p className="lead">{take.meaning.advice}</p>
              <p className="soft">
                From <Link to={`/jobs/${job.id}/takes/${latest.id}`}>take {latest.id}</Link>,{" "}
                {latest.stage}.
              </p>
            </div>
          </header>
          <ul className="remedies">
            {take.prospects.map(({ remedy: kind, expectation }) => {
              const first = take.meaning?.try_first === kind;
              return (
                <li key={kind} className={first ? "first" : ""}>
                  <div>
                    <h2>
                      {REMEDY[kind]}
                      {first && <span className="try-first">Try this first</span>}
                    </h2>
                    <p>{expectation}</p>
                    {kind !== "recalibrated" && job.intake.consent === "no" && (
                      <p className="over">The owner has not agreed to opening it.</p>
                    )}
                  </div>
                  <Button
                    component={Link}
                    to={`/jobs/${job.id}/work?kind=${kind}`}
                    variant={first ? "contained" : "outlined"}
                  >
                    Do this
                  </Button>
                </li>
              );
            })}
            <li className={take.meaning.try_first === "none" ? "first" : ""}>
              <div>
                <h2>
                  {refer ? "Refer it" : "Leave it"}
                  {!refer && take.meaning.try_first === "none" && (
                    <span className="try-first">Nothing to mend</span>
                  )}
                </h2>
                <p>
                  {refer
                    ? "It goes to the maker or a licensed service, with its readings."
                    : "Hand it back with its readings."}
                </p>
              </div>
              <Button
                component={Link}
                to={`/jobs/${job.id}/hand-over`}
                variant={take.meaning.try_first === "none" ? "contained" : "outlined"}
              >
                Hand over
              </Button>
            </li>
          </ul>
        </>
      )}
    </section>
  );
}
