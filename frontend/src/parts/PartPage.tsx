import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import { partKindsQuery, partQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { day, decimal, moment } from "../app/format";
import { useKeys } from "../app/keys";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { Inspections } from "./Inspections";
import { MoveForm } from "./MoveForm";
import { PartForm } from "./PartForm";
import "./parts.css";

/** One part: how many, where from and where to, and what comes. */
export function Component() {
  const id = Number(useParams().partId);
  const { data: view, error } = lasting(useQuery(partQuery(id)));
  const [editing, setEditing] = useState(false);
  useKeys([
    { key: "e", shown: "E", does: "what it is", run: () => setEditing(true), when: !editing },
  ]);
  if (error) return <NotShown title="This part cannot be shown." error={error} />;
  if (!view) return <Loading what="the part" />;
  const { part } = view.line;
  if (editing) return <Edit part={part} leave={() => setEditing(false)} />;
  return (
    <section className="page shelf">
      <header className="part-head">
        <div>
          <h1 className="sentence">{part.facts.name}</h1>
          <p className="soft meta">{factsOf(part.facts).join(" · ")}</p>
          {part.facts.note && <p>{part.facts.note}</p>}
        </div>
        <Counts line={view.line} />
      </header>
      <MoveForm part={part} lots={view.lots} />
      <Coming awaited={view.awaited} />
      <Movements movements={view.movements} />
      <Inspections part={part.id} lots={view.lots} />
      <p className="actions">
        <Button onClick={() => setEditing(true)}>
          Change what it is <kbd>E</kbd>
        </Button>
        <Link to="/parts">The whole shelf</Link>
      </p>
    </section>
  );
}

export function factsOf(facts: Schemas["PartFacts"]): string[] {
  const found = [];
  if (facts.footprint) found.push(`fits ${facts.footprint}`);
  if (facts.ohms != null) {
    found.push(`${facts.ohms} Ω${facts.tolerance != null ? ` ± ${facts.tolerance} %` : ""}`);
  }
  if (facts.sensor) found.push(facts.sensor === "hall" ? "Hall" : "potentiometer");
  if (facts.place) found.push(facts.place);
  if (facts.price != null) found.push(`${decimal(facts.price, 2)} each`);
  if (facts.reorder_at) found.push(`ordered again at ${facts.reorder_at}`);
  return found;
}

function Counts({ line }: { line: Schemas["PartLine"] }) {
  const { count } = line.part;
  return (
    <dl className="part-counts">
      <div>
        <dt>there</dt>
        <dd>{count.hand}</dd>
      </div>
      <div>
        <dt>reserved</dt>
        <dd>{count.held}</dd>
      </div>
      <div className={line.low ? "low" : ""}>
        <dt>{line.low ? "free, order again" : "free"}</dt>
        <dd>{line.free}</dd>
      </div>
    </dl>
  );
}

function Coming({ awaited }: { awaited: readonly Schemas["Awaited"][] }) {
  if (awaited.length === 0) return null;
  return (
    <ul className="rows" aria-label="To come">
      {awaited.map((a) => (
        <li key={a.order_id}>
          <span className="figures">{a.count} ×</span>
          <span>
            from <Link to="/orders">{a.source}</Link>
            {a.expected_on && `, expected ${day(a.expected_on)}`}
            {a.late && <strong className="near"> late</strong>}
            {a.job_id != null && (
              <>
                {" "}
                for <Link to={`/jobs/${a.job_id}`}>{a.job_tag}</Link>
              </>
            )}
          </span>
        </li>
      ))}
    </ul>
  );
}

const signed = (n: number) => (n > 0 ? `+${n}` : n < 0 ? `−${-n}` : "");

function Movements({ movements }: { movements: readonly Schemas["MovementRow"][] }) {
  const { data: info } = useQuery(partKindsQuery);
  const undo = useChange(
    (id: number) =>
      data(
        api.POST("/api/movements/{movement_id}/undo", { params: { path: { movement_id: id } } }),
      ),
    ofShelf,
  );
  const label = (kind: string) => info?.movements.find((m) => m.code === kind)?.label ?? kind;
  if (movements.length === 0) return <p className="lead">None of it came yet.</p>;
  return (
    <>
      <Trouble error={undo.error} />
      <table className="shelf-lines movements">
        <thead>
          <tr>
            <th scope="col">When</th>
            <th scope="col" className="words">
              What
            </th>
            <th scope="col">There</th>
            <th scope="col">Reserved</th>
            <th scope="col">Then there</th>
            <th scope="col" aria-label="undo" />
          </tr>
        </thead>
        <tbody>
          {movements.map((m) => (
            <tr key={m.id} className={m.undone ? "undone" : ""}>
              <th scope="row" className="figures">
                {moment(m.at)}
              </th>
              <td className="words">
                {label(m.kind)}
                {m.undoes != null && ", taken back"}
                {m.lot && `, lot ${m.lot}`}
                {m.job_id != null && (
                  <>
                    {", "}
                    <Link to={`/jobs/${m.job_id}`}>{m.job_tag}</Link>
                  </>
                )}
                {m.reason && m.undoes == null && `. ${m.reason}`}
                {m.role && <small className="soft"> {m.role}</small>}
              </td>
              <td>{signed(m.hand)}</td>
              <td>{signed(m.held)}</td>
              <td>{m.hand_after}</td>
              <td>
                {!m.undone && m.undoes == null && m.work_id == null && (
                  <Button
                    size="small"
                    aria-label={`Undo: ${label(m.kind)}, ${moment(m.at)}`}
                    onClick={() => undo.mutate(m.id)}
                  >
                    Undo
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Edit({ part, leave }: { part: Schemas["ShelfPart"]; leave: () => void }) {
  const keep = useChange(
    (body: Schemas["FactsBody"]) =>
      data(
        api.PUT("/api/parts/{part_id}", {
          params: { path: { part_id: part.id } },
          body: { ...body, revision: part.revision },
        }),
      ),
    ofShelf,
  );
  return (
    <Page title={part.facts.name}>
      <PartForm
        facts={part.facts}
        keep={(body) => keep.mutate(body, { onSuccess: leave })}
        busy={keep.isPending}
        error={keep.error}
        leave={leave}
      />
    </Page>
  );
}
