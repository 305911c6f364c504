import { Problem } from "../api/problem";

/** What the server said of each field of a form, or else a hint: props of its text field. whole: the
 * trouble that belongs to no field. */
export function fieldErrorsOf(error: Problem | null) {
  const wrong = error instanceof Problem ? error.fields : {};
  return {
    of: (field: string, hint = "") => ({
      error: wrong[field] !== undefined,
      helperText: wrong[field] ?? hint,
    }),
    whole: Object.keys(wrong).length === 0 ? error : null,
  };
}
