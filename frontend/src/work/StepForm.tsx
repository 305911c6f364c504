import TextField from "@mui/material/TextField";
import type { Schemas } from "../api/client";
import { Select } from "../app/Select";

type Step = Schemas["SheetStep"];

/** One step of a sheet. */
export function StepForm({
  step,
  kinds,
  change,
  move,
  remove,
}: {
  step: Step;
  kinds: readonly (readonly [Step["kind"], string])[];
  change: (part: Partial<Step>) => void;
  move: (by: number) => void;
  remove: () => void;
}) {
  return (
    <div className="form step-form">
      <div className="pair">
        <Select
          label="What it is"
          value={step.kind}
          options={kinds}
          onChange={(kind) => change(kind === "fastener" ? { kind } : { kind, marks: [] })}
        />
        <TextField
          label="Driver"
          value={step.driver}
          disabled={step.kind !== "fastener"}
          onChange={(e) => change({ driver: e.target.value })}
        />
        <TextField
          label="Minutes"
          value={step.minutes || ""}
          onChange={(e) => change({ minutes: Number(e.target.value) || 0 })}
        />
      </div>
      <TextField
        label="What is done"
        value={step.words}
        multiline
        maxRows={3}
        onChange={(e) => change({ words: e.target.value })}
      />
      <TextField
        label="What goes wrong here"
        value={step.warning}
        onChange={(e) => change({ warning: e.target.value })}
      />
      <TextField
        label="How it goes back: colours, places, which end first"
        value={step.back}
        onChange={(e) => change({ back: e.target.value })}
      />
      {step.photo && (
        <p className="photo-add">
          <img
            className="thumb"
            src={`/api/photos/${step.photo}/thumb`}
            alt="How it looks before"
          />
          <button type="button" className="plain link" onClick={() => change({ photo: "" })}>
            Without this photo
          </button>
        </p>
      )}
      <p className="actions">
        <button type="button" className="plain link" onClick={() => move(-1)}>
          Earlier
        </button>
        <button type="button" className="plain link" onClick={() => move(1)}>
          Later
        </button>
        <button type="button" className="plain link" onClick={remove}>
          Take this step away
        </button>
      </p>
    </div>
  );
}
