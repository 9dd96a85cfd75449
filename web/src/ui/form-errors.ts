import type { FieldValues, Path, UseFormSetError } from "react-hook-form";
import { Refusal } from "@/api/client";

/**
 * Puts what a refusal says next to the fields it is about.
 * Returns the sentences that belong to no field of the form, for its foot.
 */
export function placeErrors<T extends FieldValues>(
  error: unknown,
  fieldOf: (path: string) => Path<T> | null,
  setError: UseFormSetError<T>,
): string[] {
  if (!(error instanceof Refusal)) return [(error as Error).message];
  if (error.problems.length === 0) return [error.message];
  const left: string[] = [];
  for (const problem of error.problems) {
    const field = fieldOf(problem.path);
    if (field) setError(field, { message: problem.says });
    else left.push(`${problem.path}: ${problem.says}`);
  }
  return left;
}

/** Reads each field with its own reader; what cannot be read is put next to it. Null when any could not. */
export function readFields<T extends FieldValues, R extends Record<string, unknown>>(
  readers: { [K in keyof R]: [Path<T>, () => R[K]] },
  setError: UseFormSetError<T>,
): R | null {
  const values: Partial<R> = {};
  let sound = true;
  for (const key of Object.keys(readers) as (keyof R)[]) {
    const [field, read] = readers[key];
    try {
      values[key] = read();
    } catch (error) {
      sound = false;
      setError(field, { message: (error as Error).message });
    }
  }
  return sound ? (values as R) : null;
}

/** What a refusal says is wrong, place by place; all of it at `path` where it names none. */
export function problemsOf(error: Error, path: string): readonly { path: string; says: string }[] {
  return error instanceof Refusal && error.problems.length > 0 ? error.problems : [{ path, says: error.message }];
}
