import type { ScaleLinear } from "d3-scale";
import { Component, type ReactNode } from "react";
import "./plots.css";

/** A plot with its title, the sentence that says what to look for, and its numbers as a table. */
export function Figure({
  title,
  look,
  children,
  table,
  className = "",
}: {
  title: string;
  look: string;
  children: ReactNode;
  table?: Table;
  className?: string;
}) {
  return (
    <figure className={`figure-box ${className}`}>
      <h3>{title}</h3>
      {table && (
        <details className="numbers">
          <summary aria-label={`Numbers of ${title}`}>Numbers</summary>
          <NumbersTable caption={title} hidden {...table} />
        </details>
      )}
      <Shielded>{children}</Shielded>
      <figcaption>{look}</figcaption>
    </figure>
  );
}

/** A drawing that fails says so, and takes nothing else with it. */
class Shielded extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false };

  static getDerivedStateFromError() {
    return { failed: true };
  }

  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <p className="soft" role="status">
        This plot failed to show. Its numbers are as they were.
      </p>
    );
  }
}

/** What is drawn of something; where it leads somewhere, it can be pressed. said: its name, and what is
 * told while it is pointed at. */
export function Pressable({
  said,
  press,
  children,
}: {
  said: string;
  press: (() => void) | undefined;
  children: ReactNode;
}) {
  const drawn = (
    <>
      <title>{said}</title>
      {children}
    </>
  );
  if (!press) return <g>{drawn}</g>;
  return (
    <g
      className="target"
      role="button"
      tabIndex={0}
      aria-label={said}
      onClick={press}
      onKeyDown={(e) => {
        if (e.key === "Enter" || e.key === " ") {
          e.preventDefault();
          e.stopPropagation();
          press();
        }
      }}
    >
      {drawn}
    </g>
  );
}

interface Table {
  head: readonly string[];
  rows: readonly (readonly (string | number)[])[];
}

/** Numbers in rows under named columns. */
export function NumbersTable({
  caption,
  hidden,
  head,
  rows,
}: Table & { caption: string; hidden?: boolean }) {
  return (
    <div className="numbers-table">
      <table>
        <caption className={hidden ? "hidden" : ""}>{caption}</caption>
        <thead>
          <tr>
            {head.map((h) => (
              <th key={h} scope="col">
                {h}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={i}>
              {row.map((cell, k) => (
                <td key={k}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** A round number near a share of a length, for rings and scale bars. */
export function roundStep(range: number, parts: number): number {
  const rough = Math.max(range, 1e-6) / parts;
  const power = 10 ** Math.floor(Math.log10(rough));
  return ([1, 2, 5, 10].find((m) => m * power >= rough) ?? 10) * power;
}

const HOURS = [12, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11];

/** Clock hours around a circle of a radius, in plot units. */
export function Hours({ radius, every = 1 }: { radius: number; every?: number }) {
  return (
    <g className="hours">
      {HOURS.filter((h) => h % every === 0).map((h) => {
        const a = (h * 30 * Math.PI) / 180;
        return (
          <text
            key={h}
            x={radius * Math.sin(a)}
            y={-radius * Math.cos(a)}
            textAnchor="middle"
            dominantBaseline="central"
          >
            {h}
          </text>
        );
      })}
    </g>
  );
}

/** Lines across a plot at round values, about so many, each with its value at the left. signed: with a
 * plus before what is above zero. */
export function Levels({
  y,
  count = 4,
  x1,
  x2,
  signed = false,
}: {
  y: ScaleLinear<number, number>;
  count?: number;
  x1: number;
  x2: number;
  signed?: boolean;
}) {
  const words = y.tickFormat(count);
  return y.ticks(count).map((t) => (
    <g key={t}>
      <line className="grid" x1={x1} x2={x2} y1={y(t)} y2={y(t)} />
      <text className="axis" x={x1 - 6} y={y(t)} textAnchor="end" dominantBaseline="central">
        {signed && t > 0 ? `+${words(t)}` : words(t)}
      </text>
    </g>
  ));
}
