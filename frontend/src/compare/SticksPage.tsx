import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { lasting } from "../api/problem";
import { comparisonQuery, samplesQuery } from "../api/queries";
import { capital, moment, stickName } from "../app/format";
import { Loading, NotShown, Page } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { StageMark } from "../plots/stage";
import { Cautions } from "./Cautions";
import { CompareTable } from "./CompareTable";
import { Deltas } from "./Deltas";
import { PairPlots } from "./PairPlots";

/** The stick of the complaint against the good one of the same controller. */
export function Component() {
  const view = useJobView();
  const [search] = useSearchParams();
  const usual = view.reference;
  const before = Number(search.get("before") ?? usual?.before ?? 0);
  const after = Number(search.get("after") ?? usual?.after ?? 0);
  const { data: found, error } = lasting(
    useQuery({
      ...comparisonQuery(before, after, "everyday", true),
      enabled: before > 0 && after > 0,
    }),
  );
  const { data: was } = useQuery({ ...samplesQuery(before), enabled: before > 0 });
  const { data: now } = useQuery({ ...samplesQuery(after), enabled: after > 0 });
  if (!before || !after) {
    return (
      <Page title="Only one stick has been measured.">
        <p className="lead">The good stick of the same controller is the reference.</p>
        <Button component={Link} to={`/jobs/${view.job.id}/prove`} variant="contained">
          Measure the other
        </Button>
      </Page>
    );
  }
  if (error) return <NotShown title="These takes cannot be set side by side." error={error} />;
  if (!found) return <Loading what="both sticks" />;
  const { limit } = found.after.pin;
  const name = (which: "before" | "after") => capital(stickName(found[which].take.stick));
  return (
    <section className="page compare">
      <header className="headline">
        <div>
          <h1 className="sentence">{found.sentence}</h1>
          <p className="soft meta">
            {found.after.tag} {found.after.model} · <StageMark stage="between" /> reference:{" "}
            {stickName(found.before.take.stick)} {moment(found.before.take.started_at)} ·{" "}
            <StageMark stage="now" /> {stickName(found.after.take.stick)}, {found.after.take.stage}{" "}
            {moment(found.after.take.started_at)} ·{" "}
            <Link to={`?before=${after}&after=${before}`}>the other way round</Link>
          </p>
        </div>
      </header>
      <Cautions found={found} />
      {found.comparison.rows.length > 0 && (
        <>
          <Deltas found={found} before="between" reference />
          <PairPlots
            before={{ view: found.before, samples: was, role: "between", label: name("before") }}
            after={{ view: found.after, samples: now, role: "now", label: name("after") }}
            limit={limit}
          />
          <CompareTable rows={found.comparison.rows} reference />
        </>
      )}
    </section>
  );
}
