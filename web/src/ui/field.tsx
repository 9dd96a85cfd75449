import { useId, type ComponentProps, type ReactNode } from "react";
import { cn } from "./cn";

/** How everything looks that is filled in. */
export const CONTROL =
  "w-full min-w-0 rounded-md border border-edge bg-field px-2.5 py-1.5 text-ink aria-invalid:border-stop aria-invalid:outline-stop";

export interface Around {
  label: string;
  hint?: string | undefined;
  error?: string | undefined;
  unit?: string | undefined;
  className?: string | undefined;
  /** The label is for screen readers alone: what stands around the field says it already. */
  quiet?: boolean;
}

/** The label of a field above it, its hint or its error below. */
export function Surround({
  id,
  label,
  hint,
  error,
  quiet = false,
  className = "",
  children,
}: Around & { id: string; children: ReactNode }) {
  return (
    <div className={cn("grid content-start gap-1", className)}>
      <label htmlFor={id} className={quiet ? "sr-only" : "text-sm text-ink2"}>
        {label}
      </label>
      {children}
      {error ? (
        <p id={`${id}-error`} role="alert" className="text-sm text-stop">
          {error}
        </p>
      ) : (
        hint && (
          <p id={`${id}-hint`} className="text-sm text-ink3">
            {hint}
          </p>
        )
      )}
    </div>
  );
}

export const describedBy = (id: string, { error, hint }: Around) => (error ? `${id}-error` : hint ? `${id}-hint` : undefined);

/** A labelled input with its hint or its error under it. */
export function TextField({ label, hint, error, unit, className, ...input }: Around & ComponentProps<"input">) {
  const id = useId();
  const around = { label, hint, error, className: className ?? "" };
  return (
    <Surround id={id} {...around}>
      <div className="relative">
        <input
          id={id}
          autoComplete="off"
          className={`${CONTROL} ${unit ? "pr-9" : ""}`}
          aria-invalid={error ? true : undefined}
          aria-describedby={describedBy(id, around)}
          {...input}
        />
        {unit && <span className="pointer-events-none absolute inset-y-0 right-2.5 flex items-center text-ink3">{unit}</span>}
      </div>
    </Surround>
  );
}
