import { useId } from "react";

export type Option<T extends string> = readonly [T, string];

interface Props<T extends string> {
  label: string;
  options: readonly Option<T>[];
  /** null: none yet. */
  value: T | null;
  onChange: (value: T) => void;
  /** Chosen again, an answer is taken back to this. */
  none?: T;
  disabled?: boolean;
  hint?: string;
}

/** One of a few: arrow keys move, a letter chooses what begins with it, Enter goes on. */
export function Choose<T extends string>({
  label,
  options,
  value,
  onChange,
  none,
  disabled,
  hint,
}: Props<T>) {
  const name = useId();
  return (
    <fieldset
      className="choose"
      disabled={disabled}
      onKeyDown={(e) => {
        if (e.ctrlKey || e.altKey || e.metaKey || e.key.length !== 1) return;
        const pressed = e.key.toLowerCase();
        const match = options.find(([, said]) => said.toLowerCase().startsWith(pressed));
        if (!match || pressed === " ") return;
        e.preventDefault();
        onChange(match[0]);
        const input = e.currentTarget.querySelector<HTMLInputElement>(`input[value="${match[0]}"]`);
        input?.focus();
      }}
    >
      <legend>{label}</legend>
      <div className="choose-row">
        {options.map(([option, said]) => (
          <label key={option} className={option === value ? "chosen" : ""}>
            <input
              type="radio"
              name={name}
              value={option}
              checked={option === value}
              onChange={() => onChange(option)}
              onClick={() => {
                if (none !== undefined && option === value) onChange(none);
              }}
            />
            {said}
          </label>
        ))}
      </div>
      {hint && <p className="hint soft">{hint}</p>}
    </fieldset>
  );
}

/** Any of a few. */
export function ChooseSeveral<T extends string>({
  label,
  options,
  value,
  onChange,
}: {
  label: string;
  options: readonly Option<T>[];
  value: readonly T[];
  onChange: (value: T[]) => void;
}) {
  return (
    <fieldset className="choose">
      <legend>{label}</legend>
      <div className="choose-row">
        {options.map(([option, said]) => (
          <label key={option} className={value.includes(option) ? "chosen" : ""}>
            <input
              type="checkbox"
              checked={value.includes(option)}
              onChange={(e) =>
                onChange(e.target.checked ? [...value, option] : value.filter((v) => v !== option))
              }
            />
            {said}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
