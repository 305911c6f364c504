import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { capital, stickName } from "../app/format";
import { useKeys } from "../app/keys";
import { Trouble } from "../app/parts";
import { useGamepads } from "./gamepad";

type SourceKind = "stand-in" | "gamepad" | "file";

const CONDITIONS = { sound: "Sound", offset: "Off centre", worn: "Worn", dirty: "Dirty" } as const;

/** Choose what is measured and by which source; Space begins. */
export function StartTake({ view }: { view: Schemas["JobView"] }) {
  const { job } = view;
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const pads = useGamepads();
  const [chosen, setChosen] = useState<SourceKind | null>(null);
  const [stick, setStick] = useState(job.stick);
  const [padIndex, setPadIndex] = useState<number | null>(null);
  const sticks = job.controller.model.sticks;
  const axesOf = (name: string) => Math.max(0, sticks.indexOf(name)) * 2;
  const [firstAxis, setFirstAxis] = useState<number | null>(null);
  const [condition, setCondition] = useState<keyof typeof CONDITIONS | "">("");
  const [hand, setHand] = useState<"own" | "visitor">("own");
  const lastTake = view.takes.at(-1);
  const usual: SourceKind =
    lastTake && lastTake.source_kind !== "file"
      ? lastTake.source_kind
      : pads.length
        ? "gamepad"
        : "stand-in";
  const kind = chosen ?? usual;
  const pad = pads.find((p) => p.index === padIndex) ?? pads[0];
  const axis = firstAxis ?? axesOf(stick);
  const known = view.takes.some((t) => t.stick === stick && t.source_kind === "stand-in");

  const start = useChange(() => {
    const source =
      kind === "gamepad" && pad
        ? {
            kind: "gamepad" as const,
            name: pad.id.slice(0, 200) || "Controller",
            axis_x: axis,
            axis_y: axis + 1,
          }
        : { kind: "stand-in" as const, condition: condition || null };
    return data(
      api.POST("/api/jobs/{job_id}/takes", {
        params: { path: { job_id: job.id } },
        body: { stick, source },
      }),
    );
  });
  const ready = kind === "stand-in" || (kind === "gamepad" && pad !== undefined);
  const begin = () => {
    if (!ready || start.isPending) return;
    const query = new URLSearchParams(
      kind === "gamepad" ? { pad: String(pad?.index), axis: String(axis) } : { hand },
    );
    const pace = search.get("pace");
    if (pace) query.set("pace", pace);
    start.mutate(undefined, {
      onSuccess: (take) => navigate(`/jobs/${job.id}/takes/${take.id}/live?${query}`),
    });
  };
  useKeys([{ key: "space", shown: "Space", does: "start the take", run: begin, when: ready }]);

  return (
    <div className="form start">
      {sticks.length > 1 && (
        <fieldset>
          <legend>Stick</legend>
          <ToggleButtonGroup
            exclusive
            value={stick}
            onChange={(_, s: string | null) => s && setStick(s)}
            aria-label="Stick"
          >
            {sticks.map((s) => (
              <ToggleButton key={s} value={s}>
                {capital(stickName(s))}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <p className="hint soft">The good stick of the same controller is the reference.</p>
        </fieldset>
      )}
      <fieldset>
        <legend>Source</legend>
        <ToggleButtonGroup
          exclusive
          value={kind}
          onChange={(_, k: SourceKind | null) => k && setChosen(k)}
          aria-label="Source"
        >
          <ToggleButton value="gamepad">Controller on this machine</ToggleButton>
          <ToggleButton value="stand-in">Stand-in</ToggleButton>
          <ToggleButton value="file">Recording file</ToggleButton>
        </ToggleButtonGroup>
        {kind === "gamepad" && !pad && (
          <p className="hint over" role="status">
            No controller is seen. Plug it in and press any button on it.
          </p>
        )}
        {kind === "gamepad" && pad && (
          <div className="pair">
            <TextField
              select
              label="Controller"
              value={pad.index}
              onChange={(e) => setPadIndex(Number(e.target.value))}
            >
              {pads.map((p) => (
                <MenuItem key={p.index} value={p.index}>
                  {p.id || `Controller ${p.index + 1}`}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              select
              label="Axes of this stick"
              value={axis}
              onChange={(e) => setFirstAxis(Number(e.target.value))}
            >
              {Array.from({ length: Math.max(1, Math.floor(pad.axes / 2)) }, (_, i) => (
                <MenuItem key={i} value={2 * i}>
                  {2 * i} and {2 * i + 1}
                </MenuItem>
              ))}
            </TextField>
          </div>
        )}
        {kind === "stand-in" && (
          <>
            <p className="hint soft">
              A simulated {job.controller.model.name} with this controller’s tag: it obeys physics,
              and the work you log is done to it.
            </p>
            <div className="pair">
              <TextField
                select
                label="Who moves it"
                value={hand}
                onChange={(e) => setHand(e.target.value as "own" | "visitor")}
              >
                <MenuItem value="own">Its own hand performs the routine</MenuItem>
                <MenuItem value="visitor">I do, with mouse or arrow keys</MenuItem>
              </TextField>
              {!known && (
                <TextField
                  select
                  label="What is wrong with it"
                  value={condition}
                  onChange={(e) => setCondition(e.target.value as keyof typeof CONDITIONS)}
                  slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
                >
                  <MenuItem value="">Not told</MenuItem>
                  {Object.entries(CONDITIONS).map(([value, label]) => (
                    <MenuItem key={value} value={value}>
                      {label}
                    </MenuItem>
                  ))}
                </TextField>
              )}
            </div>
          </>
        )}
      </fieldset>
      <Trouble error={start.error} />
      <p className="actions">
        {kind === "file" ? (
          <Button component={Link} to={`/jobs/${job.id}/file?stick=${stick}`} variant="contained">
            Choose a file
          </Button>
        ) : (
          <>
            <Button
              variant="contained"
              size="large"
              onClick={begin}
              disabled={!ready || start.isPending}
            >
              Start the take <kbd>Space</kbd>
            </Button>
            <span className="soft">
              About a minute: hands off, push and let go, round the edge. It runs itself.
            </span>
          </>
        )}
      </p>
    </div>
  );
}
