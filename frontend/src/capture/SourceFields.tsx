import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import ToggleButton from "@mui/material/ToggleButton";
import ToggleButtonGroup from "@mui/material/ToggleButtonGroup";
import type { Schemas } from "../api/client";
import type { SourceKind } from "../api/queries";
import { AxisFinder } from "./AxisFinder";
import { watchHid } from "./hid";
import { OwnCalibration } from "./OwnCalibration";
import { type Choice, padName, type SourceState, useSourceLabel } from "./source";
import "./capture.css";

const KINDS: SourceKind[] = [
  "gamepad",
  "hid",
  "hidraw",
  "event-device",
  "serial",
  "stand-in",
  "file",
];

interface Props {
  view: Schemas["JobView"];
  stick: Schemas["ModelStick"];
  choice: Choice;
  choose: (change: Partial<Choice>) => void;
  source: SourceState;
}

/** Where the samples come from. */
export function SourceFields(props: Props) {
  const { source, choose } = props;
  const labelOf = useSourceLabel();
  return (
    <fieldset>
      <legend>Source</legend>
      <ToggleButtonGroup
        exclusive
        size="small"
        className="wraps"
        value={source.kind}
        onChange={(_, kind: SourceKind | null) => kind && choose({ kind })}
        aria-label="Source"
      >
        {KINDS.map((kind) => (
          <ToggleButton key={kind} value={kind}>
            {labelOf(kind)}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
      {source.kind === "gamepad" && <PadFields {...props} />}
      {source.kind === "hid" && <HidFields {...props} />}
      {source.kind === "hidraw" && <HidrawFields {...props} />}
      {source.kind === "event-device" && <DeviceFields {...props} />}
      {source.ownNumbers && source.name && (
        <OwnCalibration
          stick={props.stick}
          own={source.ownOf(props.stick)}
          change={(own) => choose({ own: { ...props.choice.own, [props.stick.name]: own } })}
        />
      )}
      {source.kind === "serial" && <PortFields {...props} />}
      {source.kind === "stand-in" && <StandInFields {...props} />}
      {source.kind === "file" && (
        <p className="hint soft">Hollow Pin’s own recording, or any table by naming its columns.</p>
      )}
    </fieldset>
  );
}

function PadFields({ stick, choice, choose, source }: Props) {
  const { pad, pads } = source;
  if (!pad) {
    return (
      <p className="hint over" role="status">
        No controller is seen. Plug it in and press any button on it.
      </p>
    );
  }
  const axes = source.axesOf(stick);
  const flips = [axes.flip_x && "x", axes.flip_y && "y"].filter(Boolean).join(" and ");
  return (
    <>
      <TextField
        select
        label="Controller"
        value={pad.index}
        onChange={(e) => choose({ pad: Number(e.target.value), axes: {} })}
      >
        {pads.map((p) => (
          <MenuItem key={p.index} value={p.index}>
            {padName(p)}
          </MenuItem>
        ))}
      </TextField>
      <p className="hint">
        Axes {axes.axis_x}
        {axes.axis_y !== null && ` and ${axes.axis_y}`}
        {flips && `, ${flips} turned round`}.{" "}
        <span className="soft">Remembered for this model and controller.</span>
      </p>
      <AxisFinder
        key={stick.name}
        watch={() => ({
          now: () => navigator.getGamepads()[pad.index]?.axes ?? [],
          stop: () => undefined,
        })}
        stick={stick.name}
        single={stick.axes === 1}
        found={(found) => choose({ axes: { ...choice.axes, [stick.name]: found } })}
      />
    </>
  );
}

function HidFields({ stick, choice, choose, source }: Props) {
  const { hid, raw } = source;
  if (!hid.possible) {
    return (
      <p className="hint over" role="status">
        This browser does not let a page read raw reports. The controller in the browser, or a raw
        device of this machine, is the next best.
      </p>
    );
  }
  const axes = source.axesOf(stick);
  const nameOfAxis = (i: number | null) => (i === null ? "" : (raw?.axes[i]?.name ?? `axis ${i}`));
  return (
    <>
      {raw && (
        <TextField
          select
          label="Device"
          value={raw.name}
          onChange={(e) => choose({ raw: e.target.value, axes: {} })}
        >
          {hid.devices.map((d) => (
            <MenuItem key={d.name} value={d.name}>
              {d.name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {raw && (
        <p className="hint">
          {nameOfAxis(axes.axis_x)}
          {axes.axis_y !== null && ` and ${nameOfAxis(axes.axis_y)}`} of {raw.axes.length} axes, in
          whole numbers from {raw.axes[axes.axis_x]?.lo} to {raw.axes[axes.axis_x]?.hi}.{" "}
          <span className="soft">As the device reports them, nothing in between.</span>
        </p>
      )}
      <p className="actions">
        <Button size="small" onClick={() => hid.ask()}>
          {raw ? "Let it read another device" : "Choose the device"}
        </Button>
        {raw && (
          <AxisFinder
            key={`${stick.name} ${raw.name}`}
            watch={() => watchHid(raw)}
            stick={stick.name}
            single={stick.axes === 1}
            found={(found) => choose({ axes: { ...choice.axes, [stick.name]: found } })}
          />
        )}
      </p>
      {hid.trouble && <p className="hint over">{hid.trouble}</p>}
    </>
  );
}

function HidrawFields({ stick, choose, source }: Props) {
  const { rawDevice, offered } = source;
  const axes = source.axesOf(stick);
  return (
    <>
      {rawDevice && (
        <TextField
          select
          label="Raw device"
          value={rawDevice.path}
          onChange={(e) => choose({ raw: e.target.value, axes: {} })}
        >
          {offered?.raw_devices.map((d) => (
            <MenuItem key={d.path} value={d.path}>
              {d.name}
            </MenuItem>
          ))}
        </TextField>
      )}
      {rawDevice && (
        <p className="hint">
          Axes {axes.axis_x}
          {axes.axis_y !== null && ` and ${axes.axis_y}`} of {rawDevice.axes.length}, from{" "}
          {rawDevice.axes[axes.axis_x]?.lo} to {rawDevice.axes[axes.axis_x]?.hi}.
        </p>
      )}
      {offered?.raw_advice && (
        <p className="hint over" role="status">
          {offered.raw_advice}
        </p>
      )}
    </>
  );
}

function DeviceFields({ stick, choice, choose, source }: Props) {
  const { device, offered } = source;
  if (!device) {
    return (
      <p className="hint over" role="status">
        {offered?.advice ?? "Looking for input devices…"}
      </p>
    );
  }
  const axes = source.axesOf(stick);
  const set = (change: Partial<Schemas["AxisMapping"]>) =>
    choose({ axes: { ...choice.axes, [stick.name]: { ...axes, ...change } } });
  const options = device.axes.map((a) => (
    <MenuItem key={a.code} value={a.code}>
      {a.name}: {a.lo} to {a.hi}
    </MenuItem>
  ));
  const fuzz = Math.max(0, ...device.axes.map((a) => a.fuzz));
  return (
    <>
      <TextField
        select
        label="Input device"
        value={device.path}
        onChange={(e) => choose({ device: e.target.value, axes: {} })}
      >
        {offered?.event_devices.map((d) => (
          <MenuItem key={d.path} value={d.path}>
            {d.name}
          </MenuItem>
        ))}
      </TextField>
      <div className="pair">
        <TextField
          select
          label="Left and right"
          value={axes.axis_x}
          onChange={(e) => set({ axis_x: Number(e.target.value) })}
        >
          {options}
        </TextField>
        {stick.axes === 2 && (
          <TextField
            select
            label="Up and down"
            value={axes.axis_y ?? ""}
            onChange={(e) => set({ axis_y: Number(e.target.value) })}
          >
            {options}
          </TextField>
        )}
      </div>
      {fuzz > 0 && (
        <p className="hint near">
          The system swallows changes of {fuzz} counts on this device: noise below that is hidden.
        </p>
      )}
    </>
  );
}

function PortFields({ choose, source }: Props) {
  const { port, offered } = source;
  if (!port) {
    return (
      <p className="hint over" role="status">
        No serial port is here. Plug the logger in; without one, <code>hollow-pin jig</code> stands
        in for it.
      </p>
    );
  }
  return (
    <>
      <TextField
        select
        label="Port"
        value={port.path}
        onChange={(e) => choose({ port: e.target.value })}
      >
        {offered?.serial.map((p) => (
          <MenuItem key={p.path} value={p.path}>
            {p.name}
          </MenuItem>
        ))}
      </TextField>
      <p className="hint soft">A bare module on a jig, before it is soldered in.</p>
    </>
  );
}

function StandInFields({ view, stick, choice, choose, source }: Props) {
  const hasTakes = view.takes.some((t) => t.stick === stick.name && t.source_kind === "stand-in");
  const kind = stick.sensors[0]?.kind ?? "potentiometer";
  const possible = source.conditions.filter(
    (c) => c.kinds.includes(kind) && (stick.sprung || c.unsprung),
  );
  const condition = possible.some((c) => c.id === choice.condition) ? choice.condition : "";
  return (
    <>
      <p className="hint soft">
        A simulated {view.job.controller.model.name}: it obeys physics, and the work you log is done
        to it.
      </p>
      <div className="pair">
        <TextField
          select
          label="Who moves it"
          value={choice.hand}
          onChange={(e) => choose({ hand: e.target.value as Choice["hand"] })}
        >
          <MenuItem value="own">Its own hand performs the routine</MenuItem>
          <MenuItem value="visitor">I do, with mouse or arrow keys</MenuItem>
        </TextField>
        {!hasTakes && (
          <TextField
            select
            label="What is wrong with it"
            value={condition}
            onChange={(e) => choose({ condition: e.target.value })}
            slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
          >
            <MenuItem value="">Not told</MenuItem>
            {possible.map((c) => (
              <MenuItem key={c.id} value={c.id}>
                {c.label}
              </MenuItem>
            ))}
          </TextField>
        )}
      </div>
    </>
  );
}
