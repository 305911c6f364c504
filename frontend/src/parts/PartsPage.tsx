import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { partKindsQuery, shelfQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { useKeys } from "../app/keys";
import { Loading, Page, Trouble } from "../app/parts";
import { Donors } from "./Donors";
import { BLANK_PART, PartForm } from "./PartForm";
import "./parts.css";

const PAGE = 50;

/** What lies on the shelf: found by any word, by what is low, page by page. */
export function Component() {
  const [search, setSearch] = useSearchParams();
  // What is typed counts at once; the address follows, so that it can be shared.
  const [text, setText] = useState(search.get("text") ?? "");
  const [low, setLow] = useState(search.has("low"));
  const after = Number(search.get("after") ?? 0);
  const { data: shelf, error } = useQuery(shelfQuery(text, low, after));
  const [adding, setAdding] = useState(false);
  useKeys([
    { key: "a", shown: "A", does: "add a part", run: () => setAdding(true), when: !adding },
  ]);
  const set = (changes: Record<string, string | null>) => {
    const next = new URLSearchParams(search);
    next.delete("after");
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    setSearch(next, { replace: true });
  };
  if (adding) return <Add leave={() => setAdding(false)} />;
  return (
    <section className="page shelf">
      <header className="shelf-head">
        <h1 className="sentence">Parts shelf</h1>
        <Link to="/orders">Orders</Link>
        <Button variant="contained" onClick={() => setAdding(true)}>
          Add a part <kbd>A</kbd>
        </Button>
      </header>
      <div className="shelf-find">
        <TextField
          size="small"
          label="Name, footprint, place or lot"
          value={text}
          onChange={(e) => {
            setText(e.target.value);
            set({ text: e.target.value });
          }}
        />
        <FormControlLabel
          control={
            <Checkbox
              checked={low}
              onChange={(e) => {
                setLow(e.target.checked);
                set({ low: e.target.checked ? "1" : null });
              }}
            />
          }
          label="Only what is to be ordered again"
        />
      </div>
      <Trouble error={error} />
      {!shelf ? (
        <Loading what="the shelf" />
      ) : shelf.total === 0 ? (
        <p className="lead">
          {text || low
            ? "Nothing of that lies on the shelf."
            : "Nothing is on the shelf yet. Add a part, then say how many came."}
        </p>
      ) : (
        <Lines shelf={shelf} />
      )}
      {shelf && shelf.total > PAGE && (
        <p className="actions">
          <Button disabled={after === 0} onClick={() => set({ after: String(after - PAGE) })}>
            Before these
          </Button>
          <span className="soft">
            {after + 1} to {Math.min(after + PAGE, shelf.total)} of {shelf.total}
          </span>
          <Button
            disabled={after + PAGE >= shelf.total}
            onClick={() => set({ after: String(after + PAGE) })}
          >
            After these
          </Button>
        </p>
      )}
      <Donors />
    </section>
  );
}

function Lines({ shelf }: { shelf: Schemas["Shelf"] }) {
  const { data: info } = useQuery(partKindsQuery);
  const label = (kind: string) => info?.kinds.find((k) => k.kind === kind)?.label ?? kind;
  return (
    <table className="shelf-lines">
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col" className="words">
            Fits
          </th>
          <th scope="col" className="words">
            Where
          </th>
          <th scope="col">There</th>
          <th scope="col">Free</th>
          <th scope="col">To come</th>
        </tr>
      </thead>
      <tbody>
        {shelf.lines.map(({ part, free, low, awaited }) => (
          <tr key={part.id} className={low ? "low" : ""}>
            <th scope="row">
              <Link to={`/parts/${part.id}`}>{part.facts.name}</Link>
              <small className="soft">
                {label(part.facts.kind)}
                {part.facts.sensor &&
                  `, ${part.facts.sensor === "hall" ? "Hall" : "potentiometer"}`}
                {part.facts.ohms != null && `, ${part.facts.ohms} Ω`}
              </small>
            </th>
            <td className="words">{part.facts.footprint}</td>
            <td className="words">{part.facts.place}</td>
            <td>{part.count.hand}</td>
            <td>
              {free}
              {low && <small className="near"> order</small>}
            </td>
            <td>{awaited || ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Add({ leave }: { leave: () => void }) {
  const navigate = useNavigate();
  const add = useChange(
    (body: Schemas["FactsBody"]) => data(api.POST("/api/parts", { body })),
    ofShelf,
  );
  return (
    <Page title="A part for the shelf">
      <PartForm
        facts={BLANK_PART}
        keep={(body) => add.mutate(body, { onSuccess: (part) => navigate(`/parts/${part.id}`) })}
        busy={add.isPending}
        error={add.error}
        leave={leave}
      />
    </Page>
  );
}
