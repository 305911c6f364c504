import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { lasting } from "../api/problem";
import {
  catalogueQuery,
  modelsQuery,
  sheetVersionQuery,
  sheetVersionsQuery,
  teardownQuery,
  useChange,
} from "../api/queries";
import { ofModels } from "../api/touched";
import { day } from "../app/format";
import { Loading, NotShown, Page, Trouble } from "../app/parts";
import { optionsOf, Select } from "../app/Select";
import { newStepId } from "./LearnStep";
import { Plan } from "./Plan";
import { StepForm } from "./StepForm";
import "./work.css";

type KeptSheet = Schemas["KeptTeardown"];
type Sheet = Schemas["Teardown"];
type Step = Schemas["SheetStep"];

/** Fasteners within this of the cursor are the one that is meant. */
const NEAR = 4;

/** How a model is opened: drawn by the shop, and made better as it learns. */
export function Component() {
  const id = useParams().modelId ?? "";
  const { data: models, error: unnamed } = lasting(useQuery(modelsQuery));
  const { data: kept, error: unread } = lasting(useQuery(teardownQuery(id)));
  const error = unread ?? unnamed;
  const name = models?.find((m) => m.id === id)?.name;
  if (error) return <NotShown title="This sheet cannot be shown." error={error} />;
  if (!kept || !name) return <Loading what="the sheet" />;
  return (
    <Page title={`How a ${name} is opened`}>
      <Editor key={kept.revision} kept={kept} />
    </Page>
  );
}

const blank = (): Step => ({
  id: newStepId(),
  kind: "fastener",
  words: "",
  driver: "",
  marks: [],
  minutes: 0,
  warning: "",
  back: "",
  photo: "",
});

/** Earlier versions: one is taken up again, and kept as a new one where that is wanted. */
function Versions({ kept, use }: { kept: KeptSheet; use: (sheet: Sheet) => void }) {
  const client = useQueryClient();
  const { data: versions } = useQuery(sheetVersionsQuery(kept.model_id));
  const earlier = versions?.filter((v) => v.revision !== kept.revision) ?? [];
  if (earlier.length === 0) return null;
  return (
    <Select
      size="small"
      label="Take up an earlier version"
      value=""
      options={[
        ["", "as it is"],
        ...earlier.map(
          (v) => [String(v.revision), `${v.revision}: ${day(v.at)}, ${v.steps} steps`] as const,
        ),
      ]}
      onChange={(revision) =>
        client
          .fetchQuery(sheetVersionQuery(kept.model_id, Number(revision)))
          .then((found) => use(found.sheet))
      }
    />
  );
}

function Editor({ kept }: { kept: KeptSheet }) {
  const [sheet, setSheet] = useState<Sheet>(kept.sheet);
  const [at, setAt] = useState<string | null>(kept.sheet.steps[0]?.id ?? null);
  const { data: catalogue } = useQuery(catalogueQuery);
  const step = sheet.steps.find((s) => s.id === at);
  const steps = [...sheet.steps];
  const body = { ...sheet, steps, revision: kept.revision };
  const drawn = steps.filter((s) => s.words.trim());
  const { data: fasteners } = useQuery({
    queryKey: ["teardown-fasteners", drawn],
    queryFn: () => data(api.POST("/api/teardown-fasteners", { body: { ...body, steps: drawn } })),
    placeholderData: (before) => before,
    retry: false,
  });
  const save = useChange(
    () =>
      data(
        api.PUT("/api/models/{model_id}/teardown", {
          params: { path: { model_id: kept.model_id } },
          body,
        }),
      ),
    ofModels,
  );
  const put = (changed: Step[]) => setSheet({ ...sheet, steps: changed });
  const change = (part: Partial<Step>) =>
    put(steps.map((s) => (s.id === at ? { ...s, ...part } : s)));
  const move = (by: number) => {
    const from = steps.findIndex((s) => s.id === at);
    const [moved] = steps.splice(from, 1);
    if (moved) steps.splice(Math.max(0, from + by), 0, moved);
    put(steps);
  };
  const add = () => {
    const made = blank();
    const after = steps.findIndex((s) => s.id === at) + 1 || steps.length;
    steps.splice(after, 0, made);
    put(steps);
    setAt(made.id);
  };
  const [length, setLength] = useState("6");
  const [none, setNone] = useState(false);
  const draws = step?.kind === "fastener" && (none || Number(length) > 0);
  const nearest = (x: number, y: number) =>
    step?.marks.find((m) => Math.hypot(m.x - x, m.y - y) < NEAR);
  return (
    <div className="teardown">
      <div className="form">
        <div className="pair">
          <Select
            label="Battery"
            value={sheet.battery}
            options={optionsOf<Sheet["battery"]>(catalogue?.batteries)}
            onChange={(battery) => setSheet({ ...sheet, battery })}
          />
          <TextField
            label="Why"
            value={sheet.battery_why}
            onChange={(e) => setSheet({ ...sheet, battery_why: e.target.value })}
          />
        </div>
        <TextField
          label="Which side opens first, and why"
          value={sheet.first}
          onChange={(e) => setSheet({ ...sheet, first: e.target.value })}
        />
        <ol className="walk-steps">
          {steps.map((s, i) => (
            <li key={s.id} className={s.id === at ? "next" : ""}>
              <button type="button" className="plain link" onClick={() => setAt(s.id)}>
                <span className="figures">{i + 1}</span> {s.words || "(says nothing yet)"}
                {s.marks.length > 0 && (
                  <span className="soft">
                    {" "}
                    {s.marks.length} mark{s.marks.length === 1 ? "" : "s"}
                  </span>
                )}
              </button>
            </li>
          ))}
        </ol>
        <p className="actions">
          <Button onClick={add}>Add a step</Button>
          <Button
            variant="contained"
            onClick={() => save.mutate(undefined)}
            disabled={save.isPending}
          >
            Keep the sheet
          </Button>
          <span className="soft">
            {kept.revision === 0 ? "Not kept yet." : `Version ${kept.revision}.`}
          </span>
        </p>
        <Versions
          kept={kept}
          use={(earlier) => {
            setSheet(earlier);
            setAt(earlier.steps[0]?.id ?? null);
          }}
        />
        <Trouble error={save.error} />
      </div>
      <div>
        {step && (
          <StepForm
            step={step}
            kinds={optionsOf<Step["kind"]>(catalogue?.step_kinds)}
            change={change}
            move={move}
            remove={() => {
              put(steps.filter((s) => s.id !== at));
              setAt(null);
            }}
          />
        )}
        {step?.kind === "fastener" && (
          <div className="inline-form">
            <TextField
              size="small"
              label="Length, mm"
              value={none ? "" : length}
              disabled={none}
              onChange={(e) => setLength(e.target.value)}
            />
            <label>
              <input type="checkbox" checked={none} onChange={(e) => setNone(e.target.checked)} /> a
              hole that takes none
            </label>
          </div>
        )}
        <Plan
          steps={steps}
          fasteners={fasteners ?? []}
          at={at}
          {...(draws && step
            ? {
                place: (x: number, y: number) => {
                  if (nearest(x, y)) return;
                  const mark = { x, y, length_mm: none ? null : Number(length) };
                  change({ marks: [...step.marks, mark] });
                },
                takeAway: (x: number, y: number) => {
                  const nearestStep = nearest(x, y);
                  change({ marks: step.marks.filter((m) => m !== nearestStep) });
                },
              }
            : {})}
        />
        {draws && (
          <p className="soft">
            Click where it is, or move by arrow keys and press Enter. Backspace takes one away.
          </p>
        )}
      </div>
    </div>
  );
}
