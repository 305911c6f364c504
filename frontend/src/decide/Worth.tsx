import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import { catalogueQuery, useChange } from "../api/queries";
import { decimal, numberOf, share } from "../app/format";
import { Trouble } from "../app/parts";
import { spread } from "../plots/spread";

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
              <td className="figures">{share(chain.chance)}</td>
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
        <div className="decide-even">
          <p className="soft">
            {worth.even_cost === null ? (
              "Mending pays whatever another controller costs."
            ) : (
              <>
                Mending pays where another controller costs more than{" "}
                <span className="figures">{money(worth.break_even)}</span>.
              </>
            )}
          </p>
          <BreakEven worth={worth} controller={counts.controller} />
        </div>
      )}
    </section>
  );
}

const WIDTH = 300;
const HEIGHT = 76;
const LEFT = 8;
const RIGHT = 84;
const LABEL = 12;

/** What both ways cost, by what another controller costs; where they cross it breaks even. */
function BreakEven({ worth, controller }: { worth: Schemas["Worth"]; controller: number }) {
  const far = 2 * controller;
  const high = Math.max(...worth.lines.map((l) => l.at_twice), 1);
  const x = (price: number) => LEFT + ((WIDTH - LEFT - RIGHT) * price) / Math.max(far, 1e-9);
  const y = (cost: number) => HEIGHT - 16 - ((HEIGHT - 24) * cost) / high;
  const { break_even: even, even_cost: cost } = worth;
  const labels = spread(
    worth.lines.map((l) => y(l.at_twice)),
    LABEL,
    4,
    HEIGHT - 20,
  );
  return (
    <svg
      className="break-even"
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      role="img"
      aria-label={`Cost by the price of another controller${
        even !== null && cost !== null ? `; it breaks even at ${money(even)}` : ""
      }`}
    >
      <line className="axis-line" x1={x(0)} x2={x(far)} y1={y(0)} y2={y(0)} />
      {worth.lines.map((l, i) => (
        <g key={l.label} className={i ? "another" : "mending"}>
          <line x1={x(0)} y1={y(l.at_nothing)} x2={x(far)} y2={y(l.at_twice)} />
          <text className="axis" x={x(far) + 5} y={(labels[i] ?? 0) + 4}>
            {l.label}
          </text>
        </g>
      ))}
      <line className="grid" x1={x(controller)} x2={x(controller)} y1={4} y2={y(0) + 4} />
      <text className="axis" x={x(controller)} y={HEIGHT - 2} textAnchor="middle">
        now {money(controller)}
      </text>
      {even !== null && cost !== null && even <= far && (
        <circle className="stage-received" cx={x(even)} cy={y(cost)} r={4} />
      )}
    </svg>
  );
}

interface Typed {
  rate: string;
  controller: string;
  parts: Record<string, string>;
}

/** A price that is left empty is the table's own. */
const bodyOf = (typed: Typed): Schemas["MoneyBody"] => ({
  rate: numberOf(typed.rate),
  controller: numberOf(typed.controller),
  parts: Object.fromEntries(
    Object.entries(typed.parts).flatMap(([code, text]) =>
      Number.isFinite(numberOf(text ?? "")) ? [[code, numberOf(text)]] : [],
    ),
  ),
});

function Counts({ counts, done }: { counts: Schemas["Money"]; done: () => void }) {
  const { register, handleSubmit, watch } = useForm<Typed>({
    defaultValues: {
      rate: String(counts.rate),
      controller: String(counts.controller),
      parts: Object.fromEntries(Object.entries(counts.parts ?? {}).map(([k, v]) => [k, String(v)])),
    },
  });
  const keep = useChange(
    (body: Schemas["MoneyBody"]) => data(api.PUT("/api/money", { body })),
    [["job"]],
  );
  const { data: catalogue } = useQuery(catalogueQuery);
  const priced = catalogue?.remedies.filter((r) => r.remedy.price > 0) ?? [];
  const right = watch(["rate", "controller"]).every((typed) => Number.isFinite(numberOf(typed)));
  return (
    <form
      className="decide-form"
      onSubmit={handleSubmit((typed) => keep.mutate(bodyOf(typed), { onSuccess: done }))}
    >
      <TextField
        size="small"
        type="number"
        label="An hour of the bench"
        {...register("rate")}
        slotProps={{ htmlInput: { min: 0, step: "any" } }}
      />
      <TextField
        size="small"
        type="number"
        label="Another controller"
        {...register("controller")}
        slotProps={{ htmlInput: { min: 0, step: "any" } }}
      />
      {priced.map(({ remedy }) => (
        <TextField
          key={remedy.code}
          size="small"
          type="number"
          label={remedy.parts[0] ?? remedy.label}
          placeholder={money(remedy.price)}
          {...register(`parts.${remedy.code}`)}
          slotProps={{ htmlInput: { min: 0, step: "any" }, inputLabel: { shrink: true } }}
        />
      ))}
      <Button type="submit" disabled={!right || keep.isPending}>
        Count with these
      </Button>
      <Trouble error={keep.error} />
    </form>
  );
}
