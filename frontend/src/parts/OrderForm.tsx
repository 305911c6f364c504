import Autocomplete from "@mui/material/Autocomplete";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, Problem, type Schemas } from "../api/client";
import { partQuery, shelfQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { Trouble } from "../app/parts";

type Part = Schemas["ShelfPart"];

/** An order of one part or several; for a job that waits, where it comes from one. */
export function OrderForm({
  leave,
  part,
  job,
}: {
  leave: () => void;
  part: number | null;
  job: number | null;
}) {
  const { data: first } = useQuery({ ...partQuery(part ?? 0), enabled: part !== null });
  const [source, setSource] = useState("");
  const [expected, setExpected] = useState("");
  const [lines, setLines] = useState<{ part: Part; count: string }[]>([]);
  const chosen = lines.length === 0 && first ? [{ part: first.line.part, count: "1" }] : lines;
  const make = useChange(
    () =>
      data(
        api.POST("/api/orders", {
          body: {
            source,
            expected_on: expected,
            note: "",
            lines: chosen.map((x) => ({
              part_id: x.part.id,
              count: Number(x.count),
              price: x.part.facts.price ?? null,
              job_id: job,
            })),
          },
        }),
      ),
    ofShelf,
  );
  const wrong = make.error instanceof Problem ? make.error.fields : {};
  return (
    <form
      className="form order-form"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate(undefined, { onSuccess: leave });
      }}
    >
      {job !== null && <p className="lead">For job {job}: it waits until this comes.</p>}
      <div className="part-fields">
        <TextField
          size="small"
          label="From"
          autoFocus
          value={source}
          onChange={(e) => setSource(e.target.value)}
          error={wrong.source !== undefined}
          helperText={wrong.source ?? ""}
        />
        <TextField
          size="small"
          type="date"
          label="Expected on"
          value={expected}
          onChange={(e) => setExpected(e.target.value)}
          error={wrong.expected_on !== undefined}
          helperText={wrong.expected_on ?? "Empty: as long as it took before"}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </div>
      {chosen.map((x, i) => (
        <div className="order-line" key={x.part.id}>
          <TextField
            size="small"
            label="How many"
            value={x.count}
            onChange={(e) =>
              setLines(chosen.map((y, j) => (i === j ? { ...y, count: e.target.value } : y)))
            }
          />
          <span>{x.part.facts.name}</span>
          <Button size="small" onClick={() => setLines(chosen.filter((_, j) => i !== j))}>
            Leave out
          </Button>
        </div>
      ))}
      <FindPart
        add={(found) =>
          !chosen.some((x) => x.part.id === found.id) &&
          setLines([...chosen, { part: found, count: "1" }])
        }
      />
      {wrong.lines && <p className="near">{wrong.lines}</p>}
      {make.error && Object.keys(wrong).length === 0 && <Trouble error={make.error} />}
      <p className="actions">
        <Button type="submit" variant="contained" disabled={make.isPending || !chosen.length}>
          It is ordered
        </Button>
        <Button onClick={leave}>Leave it</Button>
      </p>
    </form>
  );
}

function FindPart({ add }: { add: (part: Part) => void }) {
  const [text, setText] = useState("");
  const { data: shelf } = useQuery(shelfQuery(text, false, 0));
  return (
    <Autocomplete
      size="small"
      options={shelf?.lines.map((line) => line.part) ?? []}
      getOptionLabel={(part) => part.facts.name}
      getOptionKey={(part) => part.id}
      filterOptions={(all) => all}
      value={null}
      inputValue={text}
      onInputChange={(_, typed) => setText(typed)}
      onChange={(_, part) => {
        if (part) add(part);
        setText("");
      }}
      blurOnSelect
      renderInput={(given) => <TextField {...given} label="Add a part" />}
    />
  );
}
