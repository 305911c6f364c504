import Button from "@mui/material/Button";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "../api/client";
import { sourcesQuery, useReadingInfo } from "../api/queries";
import { withUnit } from "../app/format";
import { useKeys } from "../app/keys";
import { Select } from "../app/Select";
import { SPACE, SPACE_BUTTON } from "../capture/space";
import type { JigView } from "./useJig";

/** A module is measured on the jig before it is soldered: let go, round the rim, a minute. */
export function OnJig({ inspection, jig }: { inspection: number; jig: JigView }) {
  const { data: sources } = useQuery(sourcesQuery);
  const [chosen, setChosen] = useState<string | null>(null);
  const port = chosen ?? sources?.serial[0]?.path ?? "";
  const infoOf = useReadingInfo();
  const { data: read } = useQuery({
    queryKey: ["on-jig", inspection, jig.jigId],
    queryFn: () =>
      data(
        api.GET("/api/inspections/{inspection_id}/jig/{reading_id}", {
          params: { path: { inspection_id: inspection, reading_id: jig.jigId ?? 0 } },
        }),
      ),
    enabled: jig.jigId !== null,
  });
  const { progress } = jig;
  const does = jig.running ? (progress?.space ?? "none") : "none";
  useKeys([
    {
      key: "space",
      shown: "Space",
      does: SPACE[does],
      run: () => jig.say("accept"),
      when: does !== "none",
    },
  ]);
  return (
    <fieldset>
      <legend>On the jig</legend>
      {jig.running ? (
        <>
          <p role="status">
            <strong>{progress?.says ?? "Listening to the jig…"}</strong>{" "}
            <span className="soft">{progress?.note}</span>
          </p>
          <p className="actions">
            {does !== "none" && (
              <Button size="small" variant="contained" onClick={() => jig.say("accept")}>
                {SPACE_BUTTON[does]} <kbd>Space</kbd>
              </Button>
            )}
            <Button size="small" onClick={() => jig.say("stop")}>
              Stop
            </Button>
          </p>
        </>
      ) : (
        <div className="inline-form">
          <Select
            size="small"
            label="Port of the jig"
            value={port}
            options={
              sources?.serial.length
                ? sources.serial.map((p) => [p.path, p.name] as const)
                : [["", "no port is there"]]
            }
            onChange={setChosen}
          />
          <Button size="small" disabled={!port} onClick={() => jig.begin(port)}>
            {jig.jigId === null ? "Measure it on the jig" : "Measure it again"}
          </Button>
        </div>
      )}
      {jig.trouble && (
        <p className="over" role="alert">
          {jig.trouble}
        </p>
      )}
      {read && (
        <p className="figures" role="status">
          {Object.entries(read.values)
            .map(([path, v]) => {
              const info = infoOf(path);
              return `${info?.label ?? path} ${withUnit(v, info?.unit ?? "")}`;
            })
            .join(", ")}
          {read.silent && <strong className="over"> {read.silent}.</strong>}
          {read.hidden && <span className="near"> The jig hides what it does.</span>}
          {read.over.length > 0 && <strong className="over"> over: {read.over.join(", ")}</strong>}
          {read.fault && <strong className="over"> {read.fault}</strong>}
          {read.doubt && <span className="near"> {read.doubt}</span>}
        </p>
      )}
    </fieldset>
  );
}
