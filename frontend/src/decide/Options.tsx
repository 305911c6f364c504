import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { Fragment, useId } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { calculatorsQuery } from "../api/queries";
import { decimal, share } from "../app/format";
import { useKeys } from "../app/keys";

type Option = Schemas["Option"];
type Expected = Schemas["Expected"];

const WIDTH = 150;
const PATH = "composite.dead_zone_needed";
const MOST_OPTIONS = 6;

/** The remedies as rows that share one axis of the dead zone needed: now, and as it is expected. */
export function Options({
  view,
  chosen,
  choose,
}: {
  view: Schemas["DecideView"];
  chosen: string | null;
  choose: (code: string) => void;
}) {
  const name = useId();
  const now = view.now;
  const options = view.options.slice(0, MOST_OPTIONS);
  const forecasts = options.some((o) => o.prospect.expected[PATH]);
  const most = Math.max(
    view.limit * 1.5,
    (now ?? 0) * 1.08,
    ...options.map((o) => o.prospect.expected[PATH]?.high ?? 0),
  );
  const x = scaleLinear()
    .domain([0, most])
    .range([6, WIDTH - 6]);
  useKeys([
    {
      key: options.map((_, i) => i + 1).join(",") || "1",
      shown: options.length > 1 ? `1–${options.length}` : "1",
      does: "choose",
      run: (pressed) => {
        const option = options[Number(pressed) - 1];
        if (option) choose(option.remedy.code);
      },
      when: options.length > 0,
    },
  ]);
  return (
    <section aria-label="What would help">
      <h2 className="decide-title">
        What would help{" "}
        {forecasts && (
          <span className="soft">
            dead zone needed, % :{" "}
            {now !== null && (
              <>
                <i className="key-now" /> now,{" "}
              </>
            )}
            <i className="key-then" /> expected
          </span>
        )}
      </h2>
      <ul className="options">
        {options.map((option, i) => (
          <Row
            key={option.remedy.code}
            option={option}
            number={i + 1}
            name={name}
            advised={option.remedy.code === view.advised}
            chosen={option.remedy.code === chosen}
            choose={() => choose(option.remedy.code)}
            jobId={view.take?.job_id ?? 0}
            now={now}
            limit={view.limit}
            x={x}
            forecasts={forecasts}
          />
        ))}
      </ul>
      <OutOfQuestion out={[...view.out]} rest={view.options.slice(MOST_OPTIONS)} choose={choose} />
    </section>
  );
}

function Row({
  option,
  number,
  name,
  advised,
  chosen,
  choose,
  jobId,
  now,
  limit,
  x,
  forecasts,
}: {
  option: Option;
  number: number;
  name: string;
  advised: boolean;
  chosen: boolean;
  choose: () => void;
  jobId: number;
  now: number | null;
  limit: number;
  x: (value: number) => number;
  forecasts: boolean;
}) {
  const { remedy, prospect } = option;
  return (
    <li className={chosen ? "chosen" : ""}>
      <label>
        <input type="radio" name={name} checked={chosen} onChange={choose} />
        <kbd>{number}</kbd>
        <span className="option-words">
          <strong>{remedy.label}</strong>
          {advised && <span className="advised">advised</span>}
        </span>
        {forecasts ? (
          <Forecast expected={prospect.expected[PATH]} now={now} limit={limit} x={x} />
        ) : (
          <span />
        )}
        <span className="figures option-chance" title={option.because}>
          {prospect.basis === "none" ? (
            "–"
          ) : (
            <>
              {share(prospect.chance)}
              <small className="soft">{between(prospect.low, prospect.high)}</small>
            </>
          )}
        </span>
        <span className="figures option-cost">
          {remedy.minutes} min{option.price > 0 && ` · ${decimal(option.price, 2)}`}
        </span>
      </label>
      {chosen && <Why option={option} jobId={jobId} />}
    </li>
  );
}

/** From which share to which, %; nothing where both are the same. */
function between(low: number, high: number): string {
  const [from, to] = [Math.round(100 * low), Math.round(100 * high)];
  return from === to ? "" : `${from}–${to}`;
}

/** Why the chosen one: what it is for, what it wants, where technicians differ, what can hurt. */
function Why({ option, jobId }: { option: Option; jobId: number }) {
  const { data: catalogue } = useQuery(calculatorsQuery);
  const { prospect, remedy, cautions } = option;
  return (
    <div className="option-why">
      <p>
        {prospect.words}{" "}
        <span className="soft">
          {option.because} Wants {option.needs}. {option.shelf}
        </span>
        {option.calculators.map((name) => (
          <Fragment key={name}>
            {" "}
            <Link to={`/calculators?name=${name}&job=${jobId}`}>
              {catalogue?.find((c) => c.name === name)?.title}
            </Link>
          </Fragment>
        ))}
      </p>
      {remedy.schools && <p className="soft">{remedy.schools}</p>}
      {cautions.length > 0 && (
        <details>
          <summary>
            {cautions.length} cautions before it. Local rules and licensed people come first.
          </summary>
          <ul className="option-cautions">
            {cautions.map((c) => (
              <li key={c.code}>{c.text}</li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

/** Now as a hollow circle, what is expected as a bar with a square, the limit as a line. */
function Forecast({
  expected,
  now,
  limit,
  x,
}: {
  expected: Expected | undefined;
  now: number | null;
  limit: number;
  x: (value: number) => number;
}) {
  if (!expected) {
    return (
      <span className="figures soft forecast" title="The dead zone after it cannot be forecast">
        not forecast
      </span>
    );
  }
  const today = now === null ? "not known now" : `${decimal(now)} % now`;
  const label = `Dead zone needed ${today}, ${decimal(expected.low)} to ${decimal(expected.high)} % expected; limit ${decimal(limit)} %`;
  return (
    <svg className="forecast" viewBox={`0 0 ${WIDTH} 22`} role="img" aria-label={label}>
      <line className="axis-line" x1={x(0)} x2={WIDTH - 6} y1={11} y2={11} />
      <line className="limit-line" x1={x(limit)} x2={x(limit)} y1={2} y2={20} />
      {now !== null && <circle className="stage-received" cx={x(now)} cy={11} r={4} />}
      <line className="forecast-range" x1={x(expected.low)} x2={x(expected.high)} y1={11} y2={11} />
      <rect className="stage-now" x={x(expected.middle) - 3.5} y={7.5} width={7} height={7} />
    </svg>
  );
}

function OutOfQuestion({
  out,
  rest,
  choose,
}: {
  out: Option[];
  rest: readonly Option[];
  choose: (code: string) => void;
}) {
  if (out.length === 0 && rest.length === 0) return null;
  return (
    <details className="decide-out">
      <summary>
        {rest.length > 0 && `${rest.length} more that would help less`}
        {rest.length > 0 && out.length > 0 && "; "}
        {out.length > 0 && `${out.length} out of the question`}
      </summary>
      <ul className="rows">
        {rest.map((o) => (
          <li key={o.remedy.code}>
            <button type="button" className="plain link" onClick={() => choose(o.remedy.code)}>
              {o.remedy.label}
            </button>
            <span className="figures soft">
              {share(o.prospect.chance)} · {o.remedy.minutes} min
            </span>
          </li>
        ))}
        {out.map((o) => (
          <li key={o.remedy.code}>
            <s>{o.remedy.label}</s> <span className="soft">{o.refused}</span>
          </li>
        ))}
      </ul>
    </details>
  );
}
