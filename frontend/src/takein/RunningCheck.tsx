import Button from "@mui/material/Button";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, data, type Schemas } from "../api/client";
import type { Problem } from "../api/problem";
import { checkQuery, useChange } from "../api/queries";
import { NOTHING, ofCheck } from "../api/touched";
import { useKeys } from "../app/keys";
import { Page, Trouble } from "../app/parts";
import { Controls } from "./Controls";
import { Items } from "./Items";
import { type ControlEvent, followControls, shake } from "./pressed";

type View = Schemas["FunctionCheckView"];

/** A function check under way. pad: the controller it follows; null for a stand-in. */
export function RunningCheck({
  view,
  found,
  pad,
}: {
  view: Schemas["JobView"];
  found: View;
  pad: number | null;
}) {
  const { check } = found;
  const client = useQueryClient();
  const path = { params: { path: { check_id: check.id } } };
  const [failed, setFailed] = useState<Problem | null>(null);
  const show = (now: View) => client.setQueryData(checkQuery(check.id).queryKey, now);
  const end = useChange(async (because: string | null) => {
    show(await data(api.POST("/api/checks/{check_id}/end", { ...path, body: { because } })));
  }, ofCheck(view.job.id));
  const touch = useChange(async (body: Schemas["ControlTouch"]) => {
    show(await data(api.POST("/api/checks/{check_id}/touch", { ...path, body })));
  }, NOTHING);
  const endWhenLost = useRef(end.mutate);
  endWhenLost.current = end.mutate;
  const triggers = check.triggers.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: it follows the same controller throughout
  useEffect(() => {
    if (pad === null) return;
    // One request after the other, so that what was reported first is kept first.
    let sent: Promise<unknown> = Promise.resolve();
    const send = (events: ControlEvent[]) => {
      sent = sent
        .then(() => data(api.POST("/api/checks/{check_id}/events", { ...path, body: { events } })))
        .then(show)
        .catch(setFailed);
    };
    return followControls(pad, check.triggers, send, () => {
      void sent.then(() => endWhenLost.current("the controller was disconnected"));
    });
  }, [pad, check.id, triggers]);
  const standIn = check.source_kind === "stand-in";
  const open = found.found.open.length;
  useKeys([
    {
      key: "space",
      shown: "Space",
      does: "done",
      run: () => end.mutate(null),
      when: !end.isPending,
    },
  ]);
  return (
    <Page
      title={
        open === 0
          ? "Everything was tried."
          : standIn
            ? "Press each button here, by mouse or with Tab and Enter."
            : "Press each button once, pull each trigger all the way."
      }
    >
      <p className="lead" role="status">
        {found.found.sentence}
      </p>
      {!standIn && pad === null && (
        <p className="trouble" role="alert">
          The controller is no longer followed. What was pressed is kept: end this check, or begin
          another.
        </p>
      )}
      <Controls
        found={found.found}
        ended={false}
        {...(standIn
          ? {
              press: (index: number) => touch.mutate({ control: "button", index }),
              pull: (i: number) => touch.mutate({ control: "axis", index: check.triggers[i] ?? 0 }),
            }
          : {})}
      />
      <Items
        checkId={check.id}
        items={found.found.items}
        show={show}
        shake={pad === null ? undefined : () => shake(pad)}
      />
      <Trouble error={failed ?? touch.error ?? end.error} />
      <p className="actions">
        <Button variant="contained" onClick={() => end.mutate(null)} disabled={end.isPending}>
          Done
        </Button>
        <span className="soft">
          {open ? `${open} not tried: what stays silent will be named.` : "Kept with the job."}
        </span>
      </p>
      <p className="soft meta">
        Bounces shorter than the source’s own reporting interval cannot be seen.
      </p>
    </Page>
  );
}
