import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { useChange } from "../api/queries";
import { NOTHING } from "../api/touched";
import { Choose } from "../app/Choose";
import { Trouble } from "../app/parts";
import "./takein.css";

type Item = Schemas["Item"];

/** What no source reports: looked at, listened to, felt. */
export function Items({
  checkId,
  items,
  show,
  shake,
}: {
  checkId: number;
  items: readonly Item[];
  show: (now: Schemas["FunctionCheckView"]) => void;
  shake?: (() => Promise<boolean>) | undefined;
}) {
  const [still, setStill] = useState(false);
  const answer = useChange(async (item: Item) => {
    show(
      await data(
        api.PUT("/api/checks/{check_id}/answers", {
          params: { path: { check_id: checkId } },
          body: item,
        }),
      ),
    );
  }, NOTHING);
  return (
    <section className="items" aria-label="To look at and listen to">
      {items.map((item) => (
        <div key={item.name} className="item">
          <Choose
            label={item.name}
            options={[
              ["works", "Works"],
              ["faulty", "Faulty"],
            ]}
            value={item.state}
            none=""
            onChange={(state) => answer.mutate({ ...item, state })}
          />
          {item.name === "Vibration" && shake && (
            <Button size="small" onClick={() => void shake().then((did) => setStill(!did))}>
              Shake it
            </Button>
          )}
          {item.name === "Vibration" && still && (
            <span className="soft">This browser cannot drive it. Try it on its own device.</span>
          )}
          {item.state === "faulty" && (
            <Note key={item.name} item={item} keep={(note) => answer.mutate({ ...item, note })} />
          )}
        </div>
      ))}
      <Trouble error={answer.error} />
    </section>
  );
}

function Note({ item, keep }: { item: Item; keep: (note: string) => void }) {
  const [note, setNote] = useState(item.note);
  return (
    <TextField
      label="What is wrong with it"
      value={note}
      onChange={(e) => setNote(e.target.value)}
      onBlur={() => note !== item.note && keep(note)}
    />
  );
}
