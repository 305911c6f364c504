import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting, Problem } from "../api/problem";
import { decideQuery, useChange } from "../api/queries";
import { ofJob } from "../api/touched";
import { stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { useJobView } from "../job/JobMat";
import { Pin, pinProps } from "../plots/Pin";
import { Causes } from "./Causes";
import { Decided } from "./Decided";
import "./decide.css";
import { Options } from "./Options";
import { Worth } from "./Worth";

/** What is wrong, what would help, and what is worth it. */
export function Component() {
  const { job } = useJobView();
  const { data: view, error } = lasting(useQuery(decideQuery(job.id)));
  if (error) return <NotShown title="There is no deciding on this yet." error={error} />;
  if (!view) return <Loading what="causes and remedies" />;
  if (!view.take || !view.pin) {
    return (
      <Page title="There is nothing to decide on yet.">
        <p className="lead">A usable take of the {stickName(job.stick)} comes first.</p>
        <p className="actions">
          <Button component={Link} to={`/jobs/${job.id}/prove`} variant="contained">
            Measure it
          </Button>
        </p>
      </Page>
    );
  }
  return <Decide key={view.take.id} view={view} take={view.take} pin={view.pin} />;
}

function Decide({
  view,
  take,
  pin,
}: {
  view: Schemas["DecideView"];
  take: Schemas["Take"];
  pin: Schemas["Pin"];
}) {
  const { job } = useJobView();
  const [chosen, setChosen] = useState(view.advised);
  return (
    <section className="page decide">
      <header className="headline">
        <Pin {...pinProps(pin)} size={76} label="" />
        <div>
          <h1 className="sentence">{view.headline}</h1>
          <p className="lead">{view.sentence}</p>
          <p className="soft meta">
            From <Link to={`/jobs/${job.id}/takes/${take.id}`}>take {take.id}</Link>, {take.stage}.
            {[...(view.complaint?.said ?? []), ...view.context].map((said) => ` ${said}`)}
          </p>
        </div>
      </header>
      {view.complaint?.try_next && <p className="remark">{view.complaint.try_next}</p>}
      {view.causes.length > 0 && <Causes causes={view.causes} sensors={view.sensors} />}
      <NextLook view={view} take={take} />
      {view.options.length > 0 && <Options view={view} chosen={chosen} choose={setChosen} />}
      {view.options.length > 0 && !job.closed_at && (
        <Decision view={view} take={take} chosen={chosen} />
      )}
      {view.worth && <Worth worth={view.worth} money={view.money} />}
      <Decided outcomes={view.decisions} />
    </section>
  );
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

/** What would decide between causes that lie close; one key begins it. */
function NextLook({ view, take }: { view: Schemas["DecideView"]; take: Schemas["Take"] }) {
  const { job } = useJobView();
  const navigate = useNavigate();
  const [look] = view.looks;
  const to = look
    ? view.may_resume && look.steps.length > 0
      ? `/jobs/${job.id}/takes/${take.id}/live?${new URLSearchParams([...look.steps.map((s) => ["step", s]), ["back", "decide"]])}`
      : `/jobs/${job.id}/prove`
    : "";
  const open = look !== undefined && !job.closed_at;
  useKeys([{ key: "b", shown: "B", does: "what decides", run: () => navigate(to), when: open }]);
  if (!look) return null;
  return (
    <p className="decide-look">
      <strong>What would decide:</strong> {look.words}{" "}
      {open && (
        <Link to={to}>
          Do just that <kbd>B</kbd>
        </Link>
      )}
    </p>
  );
}

/** Put it on record; against an advice it wants a reason. */
function Decision({
  view,
  take,
  chosen,
}: {
  view: Schemas["DecideView"];
  take: Schemas["Take"];
  chosen: string | null;
}) {
  const { job } = useJobView();
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const option = view.options.find((o) => o.remedy.code === chosen);
  const against = view.advised !== null && chosen !== view.advised;
  const record = useChange(
    () =>
      data(
        api.POST("/api/jobs/{job_id}/decisions", {
          params: { path: { job_id: job.id } },
          body: { take_id: take.id, chosen: chosen ?? "", reason },
        }),
      ),
    ofJob(job.id),
  );
  const decide = () =>
    record.mutate(undefined, {
      onSuccess: () => {
        const kind = option?.place === "work" ? `?kind=${chosen}` : "";
        navigate(`/jobs/${job.id}/${option?.place ?? "hand-over"}${kind}`);
      },
    });
  const ready = chosen !== null && !record.isPending && (!against || reason.trim() !== "");
  useKeys([{ key: "d", shown: "D", does: "decide", run: decide, when: ready }]);
  const wrong = record.error instanceof Problem ? record.error.fields : {};
  return (
    <form
      className="decide-form"
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) decide();
      }}
    >
      {against && (
        <TextField
          size="small"
          label="Against the advice: why?"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          error={wrong.reason !== undefined}
        />
      )}
      <Button type="submit" variant="contained" disabled={!ready}>
        Decide{option ? `: ${lower(option.remedy.label)}` : ""}
      </Button>
      <Trouble error={record.error} />
    </form>
  );
}
