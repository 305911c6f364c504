import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { decimal, numberOf } from "../app/format";
import { Trouble } from "../app/parts";

const money = (value: number) => decimal(value, 2);

/** Whether it is worth it: the cheapest chains, another controller, and where that breaks even. */
export function Worth({
  worth,
  money: counts,
}: {
  worth: Schemas["Worth"];
  money: Schemas["Money"];
}) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const [editing, setEditing] = useState(false);
  const label = (code: string) =>
    (catalogue?.remedies.find((r) => r.remedy.code === code)?.remedy.label ?? code).split(",")[0] ??
    code;
  const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
  const most = Math.max(...worth.chains.map((c) => c.cost), 1);
  return (
    <section aria-label="Whether it is worth it">
      <h2 className="decide-title">
        Is it worth it{" "}
        <span className="soft">
          expected cost, measured again after each; an hour {money(counts.rate)}, another controller{" "}
          {money(counts.controller)}
        </span>
        <button type="button" className="plain link" onClick={() => setEditing(!editing)}>
          {editing ? "Leave it" : "Change"}
        </button>
      </h2>
      {editing && <Counts counts={counts} done={() => setEditing(false)} />}
      <table className="chains">
        <caption className="hidden">Chains of remedies by expected cost</caption>
        <tbody>
          {worth.chains.map((chain, i) => (
            <tr key={chain.remedies.join()}>
              <td>
                {chain.remedies.map((r, n) => (n ? lower(label(r)) : label(r))).join(", then ")}
              </td>
              <td className="figures">{Math.round(100 * chain.chance)} %</td>
              <td className="figures">{Math.round(chain.minutes)} min</td>
              <td className="chain-bar">
                <svg viewBox="0 0 100 10" preserveAspectRatio="none" aria-hidden="true">
                  <rect
                    className={i ? "later" : ""}
                    width={(100 * chain.cost) / most}
                    y={2}
                    height={6}
                  />
                </svg>
              </td>
              <td className="figures">{money(chain.cost)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {worth.break_even !== null && (
        <p className="soft decide-even">
          Mending pays where another controller costs more than{" "}
          <span className="figures">{money(worth.break_even)}</span>.
        </p>
      )}
    </section>
  );
}

function Counts({ counts, done }: { counts: Schemas["Money"]; done: () => void }) {
  const [rate, setRate] = useState(String(counts.rate));
  const [controller, setController] = useState(String(counts.controller));
  const keep = useChange((body: Schemas["MoneyBody"]) => data(api.PUT("/api/money", { body })));
  const body = {
    rate: numberOf(rate),
    controller: numberOf(controller),
    parts: counts.parts ?? {},
  };
  const right = Number.isFinite(body.rate) && Number.isFinite(body.controller);
  return (
    <form
      className="decide-form"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(body, { onSuccess: done });
      }}
    >
      <TextField
        size="small"
        type="number"
        label="An hour of the bench"
        value={rate}
        onChange={(e) => setRate(e.target.value)}
        slotProps={{ htmlInput: { min: 0, step: "any" } }}
      />
      <TextField
        size="small"
        type="number"
        label="Another controller"
        value={controller}
        onChange={(e) => setController(e.target.value)}
        slotProps={{ htmlInput: { min: 0, step: "any" } }}
      />
      <Button type="submit" disabled={!right || keep.isPending}>
        Count with these
      </Button>
      <Trouble error={keep.error} />
    </form>
  );
}
