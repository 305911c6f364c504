import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas } from "../api/client";
import { templatesQuery, useChange } from "../api/queries";
import { Trouble } from "../app/parts";
import { type Typed, typedFrom } from "./WorkFields";
import "./work.css";

type Details = NonNullable<Schemas["NewWork"]["details"]>;

/** What the shop usually puts down of a remedy: taken over by name, kept under one. lastTime: what was
 * put down of it in this job. */
export function Templates({
  kind,
  details,
  lastTime,
  use,
}: {
  kind: Schemas["NewWork"]["kind"];
  details: Details;
  lastTime?: Details;
  use: (typed: Typed) => void;
}) {
  const { data: every } = useQuery(templatesQuery);
  const [name, setName] = useState<string | null>(null);
  const own = Object.entries(every?.[kind] ?? {});
  const keep = useChange(
    (as: { name: string; details: Details }) =>
      data(api.PUT("/api/work-templates", { body: { kind, ...as } })),
    [["work-templates"]],
  );
  return (
    <div className="templates">
      {lastTime && Object.keys(lastTime).length > 0 && (
        <button type="button" className="plain link" onClick={() => use(typedFrom(lastTime))}>
          As last time
        </button>
      )}
      {own.map(([title, kept]) => (
        <span key={title} className="template">
          <button type="button" className="plain link" onClick={() => use(typedFrom(kept))}>
            {title}
          </button>
          <button
            type="button"
            className="plain soft"
            aria-label={`Forget ${title}`}
            onClick={() => keep.mutate({ name: title, details: {} })}
          >
            ×
          </button>
        </span>
      ))}
      {name === null ? (
        <button type="button" className="plain link" onClick={() => setName("")}>
          Keep these as the shop's usual
        </button>
      ) : (
        <span className="inline-form">
          <TextField
            size="small"
            label="Under which name"
            value={name}
            autoFocus
            onChange={(e) => setName(e.target.value)}
          />
          <Button
            size="small"
            disabled={!name.trim() || keep.isPending}
            onClick={() => keep.mutate({ name, details }, { onSuccess: () => setName(null) })}
          >
            Keep it
          </Button>
        </span>
      )}
      <Trouble error={keep.error} />
    </div>
  );
}
