import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { inspectionInfoQuery, inspectionQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { ChooseSeveral } from "../app/Choose";
import { numberOf, withUnit } from "../app/format";
import { Loading, NotShown, Trouble } from "../app/parts";
import { OhmsStrip } from "../plots/OhmsStrip";
import { OnJig } from "./OnJig";
import "./parts.css";
import { useJig } from "./useJig";

type View = Schemas["InspectionView"];
type Ending = NonNullable<Schemas["Inspection"]["ending"]>;

/** A lot is looked at, one after the other, until the plan says what to do with it. */
export function Component() {
  const id = Number(useParams().inspectionId);
  const { data: view, error } = lasting(useQuery(inspectionQuery(id)));
  if (error) return <NotShown title="This lot cannot be shown." error={error} />;
  if (!view) return <Loading what="the lot" />;
  const { inspection, part, standing } = view;
  const over = standing.decision === "reject";
  return (
    <section className="page shelf">
      <header className="part-head">
        <div>
          <h1 className="sentence">{standing.says}</h1>
          <p className="soft meta">
            Lot {inspection.lot} of <Link to={`/parts/${part.id}`}>{part.facts.name}</Link>,{" "}
            {inspection.plan.lot_size} came.{" "}
            {inspection.plan.aql === null
              ? "Every one is looked at."
              : `${inspection.plan.n} are looked at: ISO 2859-1, level II, letter ${inspection.plan.letter}, AQL ${inspection.plan.aql}.`}
          </p>
          {view.past && <p className="soft">{view.past}</p>}
        </div>
        <dl className="part-counts">
          <div>
            <dt>looked at</dt>
            <dd>{standing.seen}</dd>
          </div>
          <div className={over ? "low" : ""}>
            <dt>bad</dt>
            <dd>{standing.bad}</dd>
          </div>
        </dl>
      </header>
      {inspection.ending ? <LotEnding view={view} /> : <LookAt key={standing.seen} view={view} />}
      <LotSoFar view={view} />
      {!inspection.ending && <Decide view={view} />}
    </section>
  );
}

function LookAt({ view }: { view: View }) {
  const { inspection, part, standing } = view;
  const { data: info } = useQuery(inspectionInfoQuery);
  const [ohms, setOhms] = useState(["", ""]);
  const [marks, setMarks] = useState<string[]>([]);
  const [note, setNote] = useState("");
  const jig = useJig(inspection.id);
  const path = { params: { path: { inspection_id: inspection.id } } };
  const typed = ohms.filter((o) => o.trim()).map(numberOf);
  const put = useChange(
    () =>
      data(
        api.POST("/api/inspections/{inspection_id}/looked", {
          ...path,
          body: { ohms: typed, marks, jig_id: jig.jigId, note },
        }),
      ),
    ofShelf,
  );
  const back = useChange(
    () => data(api.DELETE("/api/inspections/{inspection_id}/looked/last", path)),
    ofShelf,
  );
  const tracks = part.facts.sensor === "hall" ? 0 : 2;
  const ready = typed.every((n) => n > 0) && !jig.running && !put.isPending;
  return (
    <form
      className="form"
      aria-label="The next one"
      onSubmit={(e) => {
        e.preventDefault();
        if (ready) put.mutate(undefined);
      }}
    >
      {tracks > 0 && (
        <div className="pair">
          {["x", "y"].slice(0, tracks).map((axis, i) => (
            <TextField
              key={axis}
              label={`Track ${axis}, Ω from end to end`}
              value={ohms[i]}
              autoFocus={i === 0}
              onChange={(e) => setOhms(ohms.map((o, k) => (k === i ? e.target.value : o)))}
            />
          ))}
        </div>
      )}
      <ChooseSeveral
        label="Marks of use"
        options={Object.entries(info?.marks ?? {})}
        value={marks}
        onChange={setMarks}
      />
      {part.facts.kind === "module" && <OnJig inspection={inspection.id} jig={jig} />}
      <TextField label="Note" value={note} onChange={(e) => setNote(e.target.value)} />
      <Trouble error={put.error ?? back.error} />
      <p className="actions">
        <Button type="submit" variant="contained" disabled={!ready}>
          Record it, next one
        </Button>
        {standing.seen > 0 && (
          <button type="button" className="plain link" onClick={() => back.mutate(undefined)}>
            Take the last back
          </button>
        )}
      </p>
    </form>
  );
}

function LotSoFar({ view }: { view: View }) {
  const { units, standing, part } = view;
  if (units.length === 0) return null;
  return (
    <section className="block" aria-label="The lot so far">
      <h2>The lot so far</h2>
      <OhmsStrip
        values={units.map((u) => ({ ohms: u.inspected.looked.ohms, bad: u.judged.bad.length > 0 }))}
        ordered={part.facts.ohms ?? null}
        tolerance={part.facts.tolerance ?? null}
      />
      <p className="figures soft">
        {standing.spreads
          .map(
            (s) =>
              `${s.name} ${withUnit(s.median, s.unit)} in the middle, ${withUnit(s.least, s.unit)} to ${withUnit(s.most, s.unit)}`,
          )
          .join("; ")}
      </p>
      <ol className="rows">
        {units.map((u, i) => (
          <li key={u.inspected.id}>
            <span className="figures soft">{i + 1}</span>
            <span className="figures">
              {u.inspected.looked.ohms.map((o) => `${o} Ω`).join(", ")}
            </span>
            {u.judged.bad.length > 0 ? (
              <span className="over">{u.judged.bad.join(" ")}</span>
            ) : (
              u.judged.unsure.length === 0 && <span>good</span>
            )}
            {u.judged.unsure.map((words) => (
              <span key={words} className="near">
                {words}
              </span>
            ))}
            {u.judged.unlike.length > 0 && (
              <span className="near">Unlike the others: {u.judged.unlike.join(" ")}</span>
            )}
            {u.inspected.looked.note && <span className="soft">{u.inspected.looked.note}</span>}
          </li>
        ))}
      </ol>
    </section>
  );
}

function Decide({ view }: { view: View }) {
  const { decision } = view.standing;
  const { data: info } = useQuery(inspectionInfoQuery);
  const entries = Object.entries(info?.endings ?? {}) as [Ending, Schemas["EndingWords"]][];
  const [reason, setReason] = useState("");
  const end = useChange(
    (ending: Ending) =>
      data(
        api.POST("/api/inspections/{inspection_id}/end", {
          params: { path: { inspection_id: view.inspection.id } },
          body: { ending, reason },
        }),
      ),
    ofShelf,
  );
  const first = decision === "reject" ? "sent-back" : "accepted";
  return (
    <section className="block" aria-label="What becomes of the lot">
      <h2>What becomes of it</h2>
      <TextField
        label="Why, where it is not as the plan says"
        value={reason}
        onChange={(e) => setReason(e.target.value)}
        fullWidth
      />
      <Trouble error={end.error} />
      <p className="actions">
        {entries.map(([ending, { does }]) => (
          <Button
            key={ending}
            variant={ending === first && decision !== "go-on" ? "contained" : "outlined"}
            disabled={end.isPending}
            onClick={() => end.mutate(ending)}
          >
            {does}
          </Button>
        ))}
      </p>
    </section>
  );
}

function LotEnding({ view }: { view: View }) {
  const { inspection } = view;
  const again = useChange(
    () =>
      data(
        api.POST("/api/inspections/{inspection_id}/reopen", {
          params: { path: { inspection_id: inspection.id } },
        }),
      ),
    ofShelf,
  );
  const { data: info } = useQuery(inspectionInfoQuery);
  const done = inspection.ending && info?.endings[inspection.ending]?.done;
  return (
    <p className="lead">
      It was {done}. {inspection.reason}{" "}
      <button type="button" className="plain link" onClick={() => again.mutate(undefined)}>
        Take it up again
      </button>
      <Trouble error={again.error} />
    </p>
  );
}
