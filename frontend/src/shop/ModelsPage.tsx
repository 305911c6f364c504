import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { modelsQuery } from "../api/queries";
import { capital, decimal } from "../app/format";
import { Loading, Page, Trouble } from "../app/parts";
import "./shop.css";

function describeStick(stick: Schemas["ModelStick"]): string {
  const kind = (k: string) => (k === "hall" ? "Hall" : k);
  const sensors = stick.sensors.map(
    (s) =>
      `${s.axis} ${kind(s.kind)}${s.ohms ? ` ${s.ohms / 1000} kΩ` : ""}${s.side ? `, housing ${s.side}` : ""}`,
  );
  const shape = stick.axes === 1 ? "one axis" : `${stick.gate} gate`;
  return `${shape}, ${stick.sprung ? "sprung" : "no spring"}; ${sensors.join("; ")}`;
}

/** The kinds of controllers this bench knows. */
export function Component() {
  const { data: models, error } = useQuery(modelsQuery);
  if (!models && !error) return <Loading what="the models" />;
  return (
    <Page title="Models">
      <p className="lead">
        What a kind of controller has: its sticks, the range they report in, their gates and
        sensors, and limits of its own.
      </p>
      <Trouble error={error} />
      <ul className="sheet">
        {models?.map((m) => (
          <li key={m.id}>
            <h2>
              <Link to={`/models/${m.id}`}>{m.name}</Link>
            </h2>
            <p className="figures">
              {m.bits} bit, {decimal(m.lo, 0)} to {decimal(m.hi, 0)}, {decimal(m.rate_hz, 0)} Hz
              {Object.keys(m.limits).length > 0 && ", limits of its own"}
            </p>
            <div>
              {m.sticks.map((s) => (
                <p key={s.name}>
                  {capital(s.name)}: {describeStick(s)}
                </p>
              ))}
              {m.note && <p className="soft">{m.note}</p>}
              <p>
                <Link to={`/models/${m.id}/sheet`}>How a {m.name} is opened</Link>
              </p>
            </div>
          </li>
        ))}
      </ul>
      <p className="actions">
        <Button component={Link} to="/models/new" variant="contained">
          New model
        </Button>
      </p>
    </Page>
  );
}
