import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, data, type Schemas } from "../api/client";
import { Problem } from "../api/problem";
import { catalogueQuery, controllerQuery, modelsQuery, useChange } from "../api/queries";
import { Choose } from "../app/Choose";
import { capital, stickName } from "../app/format";
import { Page, Trouble } from "../app/parts";
import { KnownCard } from "./KnownCard";
import "./bench.css";

const LONGEST_TAG = 80;

/** What is answered next, once the tag is known or known to be new. */
const NEXT = {
  stick: '[data-next="stick"] input:checked',
  model: '[data-next="model"] input',
};

type Answer = Schemas["Job"]["moves"];

/** A scanned label holds the job's address; the job's number, where that is what was typed. */
export function scannedJob(typed: string): number | null {
  const link = typed.trim().match(/^https?:\/\/\S+\/jobs\/(\d+)\/?$/);
  return link ? Number(link[1]) : null;
}

/** Take a controller in: tag and model are all it takes. */
export function NewJob() {
  const navigate = useNavigate();
  const client = useQueryClient();
  const form = useRef<HTMLFormElement>(null);
  const { data: models } = useQuery(modelsQuery);
  const { data: catalogue } = useQuery(catalogueQuery);
  const [typed, setTyped] = useState("");
  const [modelId, setModelId] = useState("");
  const [chosen, setChosen] = useState("");
  const [complaint, setComplaint] = useState("");
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [next, setNext] = useState<keyof typeof NEXT | null>(null);
  const tag = typed.trim();
  const { data: known } = useQuery({
    ...controllerQuery(tag),
    enabled: tag.length > 0 && tag.length <= LONGEST_TAG && scannedJob(tag) === null,
  });
  const model = known?.controller.model ?? models?.find((m) => m.id === modelId);
  const sticks = model?.sticks.map((s) => s.name) ?? [];
  const before = known?.last?.stick;
  const stick = [chosen, before, sticks[0]].find((s) => s && sticks.includes(s)) ?? "";
  const refer = known?.controller.refer ?? false;
  const moves: Answer = refer ? "yes" : (answer ?? known?.last?.moves ?? "");
  const open = useChange(
    () =>
      data(
        api.POST("/api/jobs", {
          body: { tag, stick, complaint, moves, model_id: known ? null : modelId || null },
        }),
      ),
    [["bench"], ["controller"]],
  );
  const tooLong = tag.length > LONGEST_TAG && scannedJob(tag) === null;
  const ready = tag && !tooLong && model && !open.isPending;
  const wrong = open.error instanceof Problem ? open.error.fields : {};

  useEffect(() => {
    const field = next && form.current?.querySelector<HTMLElement>(NEXT[next]);
    if (!field) return;
    field.focus();
    setNext(null);
  });

  /** After the tag: where the next answer goes, as soon as it is there. */
  const lookUp = async () => {
    const job = scannedJob(tag);
    if (job !== null) {
      navigate(`/jobs/${job}`);
      return;
    }
    if (!tag) return;
    const controller = await client.ensureQueryData(controllerQuery(tag)).catch(() => null);
    setNext(controller ? "stick" : "model");
  };
  const take = (place: "prove" | "take-in") => {
    if (known?.open_job_id) {
      navigate(`/jobs/${known.open_job_id}`);
      return;
    }
    if (!ready) return;
    open.mutate(undefined, { onSuccess: (view) => navigate(`/jobs/${view.job.id}/${place}`) });
  };
  const lying = known?.open_job_id;
  return (
    <Page title="Take a controller in.">
      <div className="take-in-new">
        <form
          ref={form}
          className="form"
          noValidate
          onSubmit={(e) => {
            e.preventDefault();
            take("prove");
          }}
          onKeyDown={(e) => {
            if (e.key === "Enter" && e.ctrlKey) {
              e.preventDefault();
              take("prove");
            }
          }}
        >
          <TextField
            label="Tag"
            autoFocus
            autoComplete="off"
            error={"tag" in wrong || tooLong}
            helperText={
              tooLong
                ? `A tag has at most ${LONGEST_TAG} characters.`
                : (wrong.tag ?? (tag ? "" : "Scan it, or type it and press Enter."))
            }
            value={typed}
            slotProps={{ htmlInput: { maxLength: 200 } }}
            onChange={(e) => setTyped(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== "Enter" || e.ctrlKey) return;
              e.preventDefault();
              void lookUp();
            }}
          />
          {!known && (
            <div data-next="model">
              <Choose
                label="Model"
                options={models?.map((m) => [m.id, m.name] as const) ?? []}
                value={modelId}
                onChange={(id) => {
                  setModelId(id);
                  setChosen("");
                }}
                hint={wrong.model_id ?? model?.note ?? "New here: what kind of controller it is."}
              />
            </div>
          )}
          {model && (
            <div data-next="stick">
              <Choose
                label="Which stick"
                options={sticks.map((s) => [s, capital(stickName(s))] as const)}
                value={stick}
                onChange={setChosen}
              />
            </div>
          )}
          <Choose
            label={catalogue?.take_in.moves ?? ""}
            options={[
              ["yes", "Yes"],
              ["no", "No"],
            ]}
            value={moves}
            none=""
            disabled={refer}
            onChange={setAnswer}
          />
          {moves === "yes" && (
            <p className="refer-note" role="status">
              <strong>Refer.</strong> {catalogue?.take_in.refer}{" "}
              {!refer && "This is not taken back later."}
            </p>
          )}
          <TextField
            label="Complaint, in the owner’s words"
            multiline
            minRows={2}
            maxRows={6}
            value={complaint}
            error={"complaint" in wrong}
            helperText={wrong.complaint ?? "Which way, since when, does a flick clear it."}
            onChange={(e) => setComplaint(e.target.value)}
          />
          <Trouble error={wrong.tag || wrong.model_id || wrong.complaint ? null : open.error} />
          {lying ? (
            <p className="actions">
              <Button type="submit" variant="contained">
                Go on with {known?.controller.tag}
              </Button>
              <span className="soft">It is on the bench already.</span>
            </p>
          ) : (
            <p className="actions">
              <Button type="submit" variant="contained" disabled={!ready}>
                {moves === "yes" ? "Take in as “refer”" : "Take in and prove"}
              </Button>
              <Button disabled={!ready} onClick={() => take("take-in")}>
                Take in and ask the rest
              </Button>
              <span className="soft">
                {!tag
                  ? "A tag and a model are all it takes."
                  : !model
                    ? "Choose the model."
                    : "Ctrl Enter, from anywhere."}
              </span>
            </p>
          )}
        </form>
        {known && <KnownCard known={known} />}
      </div>
    </Page>
  );
}
