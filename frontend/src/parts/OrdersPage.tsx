import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { Link, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { ordersQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { day } from "../app/format";
import { Loading, Trouble } from "../app/parts";
import { OrderForm } from "./OrderForm";
import "./parts.css";

/** What is ordered, what is late, and what came. */
export function Component() {
  const { data: orders, error } = useQuery(ordersQuery);
  const [search, setSearch] = useSearchParams();
  const beginning = search.has("new");
  if (!orders && !error) return <Loading what="the orders" />;
  return (
    <section className="page shelf">
      <header className="shelf-head">
        <h1 className="sentence">Orders</h1>
        <Link to="/parts">Parts shelf</Link>
        {!beginning && (
          <Button variant="contained" onClick={() => setSearch({ new: "1" })}>
            Order parts
          </Button>
        )}
      </header>
      <Trouble error={error} />
      {beginning && (
        <OrderForm
          leave={() => setSearch({}, { replace: true })}
          part={Number(search.get("part") ?? 0) || null}
          job={Number(search.get("job") ?? 0) || null}
        />
      )}
      {orders?.length === 0 && !beginning && (
        <p className="lead">Nothing was ordered yet. What a job waits for can be ordered for it.</p>
      )}
      <ul className="orders">
        {orders?.map((view) => (
          <OneOrder key={view.order.id} view={view} />
        ))}
      </ul>
    </section>
  );
}

function OneOrder({ view }: { view: Schemas["OrderView"] }) {
  const { order } = view;
  const [receiving, setReceiving] = useState(false);
  const again = useChange(
    () =>
      data(api.POST("/api/orders/{order_id}/await", { params: { path: { order_id: order.id } } })),
    ofShelf,
  );
  const end = useChange(
    () =>
      data(api.POST("/api/orders/{order_id}/end", { params: { path: { order_id: order.id } } })),
    ofShelf,
  );
  return (
    <li className={order.closed_at ? "closed" : ""}>
      <h2>
        {order.source} <span className="soft">{day(order.ordered_at)}</span>{" "}
        {view.late && <strong className="near">late</strong>}
      </h2>
      <p className="soft">
        {order.closed_at
          ? `Closed ${day(order.closed_at)}.`
          : view.expected_on
            ? `Expected ${day(view.expected_on)}, ${view.told_by}.`
            : "When it comes is not known: nothing was said, and too few came from there before."}
        {order.note && ` ${order.note}`}
      </p>
      {receiving ? (
        <Receive view={view} leave={() => setReceiving(false)} />
      ) : (
        <ul className="rows">
          {order.lines.map((line) => (
            <li key={line.id}>
              <span className="figures">
                {line.came} of {line.count}
              </span>
              <span>
                <Link to={`/parts/${line.part_id}`}>{line.part}</Link>
                {line.job_id != null && (
                  <>
                    {" "}
                    for <Link to={`/jobs/${line.job_id}`}>{line.job_tag}</Link>
                  </>
                )}
              </span>
            </li>
          ))}
        </ul>
      )}
      {view.ended && (
        <p className="actions">
          <Button onClick={() => again.mutate(undefined)}>Await the rest after all</Button>
          <Trouble error={again.error} />
        </p>
      )}
      {!order.closed_at && !receiving && (
        <p className="actions">
          <Button onClick={() => setReceiving(true)}>It came</Button>
          <Button onClick={() => end.mutate(undefined)}>No more is awaited</Button>
          <Trouble error={end.error} />
        </p>
      )}
    </li>
  );
}

function Receive({ view, leave }: { view: Schemas["OrderView"]; leave: () => void }) {
  const { order } = view;
  const open = order.lines.filter((line) => line.came < line.count);
  const { register, handleSubmit } = useForm({
    defaultValues: {
      lines: open.map((x) => ({ line_id: x.id, count: String(x.count - x.came), lot: "" })),
    },
  });
  const receive = useChange(
    (lines: { line_id: number; count: string; lot: string }[]) =>
      data(
        api.POST("/api/orders/{order_id}/received", {
          params: { path: { order_id: order.id } },
          body: {
            lines: lines
              .map((x) => ({ ...x, count: Number(x.count) }))
              .filter((x) => x.count !== 0),
          },
        }),
      ),
    ofShelf,
  );
  return (
    <form
      className="receive"
      onSubmit={handleSubmit((typed) => receive.mutate(typed.lines, { onSuccess: leave }))}
    >
      {open.map((line, i) => (
        <div key={line.id}>
          <TextField
            size="small"
            label={`Came of ${line.count - line.came}`}
            {...register(`lines.${i}.count`)}
          />
          <TextField size="small" label="Lot, as on the bag" {...register(`lines.${i}.lot`)} />
          <span>{line.part}</span>
        </div>
      ))}
      {receive.error instanceof Problem && <Trouble error={receive.error} />}
      <p className="actions">
        <Button type="submit" variant="contained" disabled={receive.isPending}>
          Put on the shelf
        </Button>
        <Button onClick={leave}>Not yet</Button>
      </p>
    </form>
  );
}
