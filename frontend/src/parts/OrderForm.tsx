import Autocomplete from "@mui/material/Autocomplete";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useFieldArray, useForm } from "react-hook-form";
import { api, data, type Schemas } from "../api/client";
import { jobQuery, partQuery, shelfQuery, useChange } from "../api/queries";
import { ofShelf } from "../api/touched";
import { fieldErrorsOf } from "../app/fieldErrors";
import { Trouble } from "../app/parts";

type Part = Schemas["ShelfPart"];

interface Typed {
  source: string;
  expected: string;
  lines: { part: Part; count: string }[];
}

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
  const { data: waiting } = useQuery({ ...jobQuery(job ?? 0), enabled: job !== null });
  const { data: first } = useQuery({ ...partQuery(part ?? 0), enabled: part !== null });
  const { register, control, handleSubmit } = useForm<Typed>({
    defaultValues: { source: "", expected: "", lines: [] },
  });
  const { fields: lines, append, remove } = useFieldArray({ control, name: "lines" });
  const forPart = first?.line.part;
  const begun = useRef(false);
  useEffect(() => {
    if (forPart && !begun.current) append({ part: forPart, count: "1" }, { shouldFocus: false });
    begun.current ||= forPart !== undefined;
  }, [forPart, append]);
  const make = useChange(
    (typed: Typed) =>
      data(
        api.POST("/api/orders", {
          body: {
            source: typed.source,
            expected_on: typed.expected,
            note: "",
            lines: typed.lines.map((x) => ({
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
  const fieldErrors = fieldErrorsOf(make.error);
  const wrong = fieldErrors.of("lines");
  return (
    <form
      className="form order-form"
      onSubmit={handleSubmit((typed) => make.mutate(typed, { onSuccess: leave }))}
    >
      {waiting && (
        <p className="lead">For {waiting.job.controller.tag}: its job waits until this comes.</p>
      )}
      <div className="part-fields">
        <TextField
          size="small"
          label="From"
          autoFocus
          {...register("source")}
          {...fieldErrors.of("source")}
        />
        <TextField
          size="small"
          type="date"
          label="Expected on"
          {...register("expected")}
          {...fieldErrors.of("expected_on", "Empty: as long as it took before")}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </div>
      {lines.map((x, i) => (
        <div className="order-line" key={x.id}>
          <TextField size="small" label="How many" {...register(`lines.${i}.count`)} />
          <span>{x.part.facts.name}</span>
          <Button size="small" onClick={() => remove(i)}>
            Leave out
          </Button>
        </div>
      ))}
      <FindPart
        add={(found) =>
          !lines.some((x) => x.part.id === found.id) && append({ part: found, count: "1" })
        }
      />
      {wrong.error && <p className="near">{wrong.helperText}</p>}
      <Trouble error={fieldErrors.whole} />
      <p className="actions">
        <Button type="submit" variant="contained" disabled={make.isPending || !lines.length}>
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
