import { useQuery } from "@tanstack/react-query";
import { lasting } from "../api/problem";
import { trackRecordQuery } from "../api/queries";
import { Loading, NotShown, Page } from "../app/parts";
import { Row } from "./Decided";
import "./decide.css";

const SIZE = 220;
const EDGE = 30;

/** How often the tool was right: what it told against what became of it. */
export function Component() {
  const { data: found, error } = lasting(useQuery(trackRecordQuery));
  if (error) return <NotShown title="The decisions cannot be shown." error={error} />;
  if (!found) return <Loading what="the decisions" />;
  const { followed, against } = found;
  const outcomes = followed.tried + against.tried;
  const at = (p: number) => EDGE + (SIZE - 2 * EDGE) * p;
  return (
    <Page
      title={
        outcomes === 0
          ? "No decision has been measured afterwards yet."
          : `${followed.held} of ${followed.tried} decisions by the advice held; ${against.held} of ${against.tried} against it.`
      }
    >
      <p className="lead">
        A decision held where the stick was measured after it and nothing was over its limit.
      </p>
      {found.bins.length > 0 && (
        <figure className="track-record">
          <svg
            viewBox={`0 0 ${SIZE} ${SIZE}`}
            role="img"
            aria-label="Chance that was told against the share that held"
          >
            <rect
              className="frame"
              x={EDGE}
              y={EDGE}
              width={SIZE - 2 * EDGE}
              height={SIZE - 2 * EDGE}
            />
            <line className="grid" x1={at(0)} y1={SIZE - at(0)} x2={at(1)} y2={SIZE - at(1)} />
            {found.bins.map((b, i) => (
              <g key={b.low}>
                <rect
                  className="stage-now"
                  x={at(b.mean) - 4}
                  y={SIZE - at(b.held / b.count) - 4}
                  width={8}
                  height={8}
                />
                <text
                  className="axis"
                  x={at(b.mean)}
                  y={SIZE - at(b.held / b.count) + (i % 2 ? 17 : -9)}
                  textAnchor="middle"
                >
                  {b.held} of {b.count}
                </text>
              </g>
            ))}
            <text className="axis" x={SIZE / 2} y={SIZE - 8} textAnchor="middle">
              chance that was told
            </text>
            <text
              className="axis"
              x={12}
              y={SIZE / 2}
              textAnchor="middle"
              transform={`rotate(-90 12 ${SIZE / 2})`}
            >
              share that held
            </text>
          </svg>
          <figcaption className="soft">
            On the line, what is told is what becomes of it. Above it the tool is too careful, below
            it too sure.
          </figcaption>
        </figure>
      )}
      <ul className="rows">
        {found.outcomes.map((o) => (
          <Row key={o.decision.id} outcome={o} among />
        ))}
      </ul>
    </Page>
  );
}
