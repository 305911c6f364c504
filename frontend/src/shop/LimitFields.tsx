import TextField from "@mui/material/TextField";
import { useQuery } from "@tanstack/react-query";
import { catalogueQuery, type Grade } from "../api/queries";
import type { Form } from "./ModelForm";
import "./shop.css";

const GRADES: [Grade, string][] = [
  ["fine", "Precise"],
  ["everyday", "Everyday"],
  ["display", "Menus"],
];

/** Limits of the model's own; a blank one is the usual one. */
export function LimitFields({ form }: { form: Form }) {
  const { data: catalogue } = useQuery(catalogueQuery);
  const limited = catalogue?.readings.filter((r) => r.limits !== null) ?? [];
  return (
    <details className="more">
      <summary>Limits of its own</summary>
      <p className="soft">Left blank, the usual limit counts; it stands in the field, greyed.</p>
      <table className="limit-table">
        <thead>
          <tr>
            <th scope="col">Reading</th>
            {GRADES.map(([grade, label]) => (
              <th key={grade} scope="col">
                {label}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {limited.map((r) => (
            <tr key={r.path}>
              <th scope="row" title={r.reason ?? undefined}>
                {r.label}
                {r.unit && <span className="soft"> {r.unit}</span>}
              </th>
              {GRADES.map(([grade, label]) => (
                <td key={grade}>
                  <Limit
                    form={form}
                    path={r.path}
                    grade={grade}
                    label={`${r.label}, ${label}`}
                    usual={r.limits?.[grade] ?? 0}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

function Limit({
  form,
  path,
  grade,
  label,
  usual,
}: {
  form: Form;
  path: string;
  grade: Grade;
  label: string;
  usual: number;
}) {
  // Paths hold dots, which the form would take for nesting: the table is set whole.
  const limits = form.watch("limits") ?? {};
  const value = limits[path]?.[grade];
  return (
    <TextField
      type="number"
      size="small"
      placeholder={String(usual)}
      value={value ?? ""}
      onChange={(e) => {
        const { [grade]: _, ...others } = limits[path] ?? {};
        const now = e.target.value === "" ? others : { ...others, [grade]: Number(e.target.value) };
        form.setValue("limits", { ...limits, [path]: now });
      }}
      slotProps={{ htmlInput: { "aria-label": label, step: "any", min: 0 } }}
    />
  );
}
