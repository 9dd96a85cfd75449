import { X } from "lucide-react";
import type { ReactNode } from "react";
import type { Control, FieldErrors, UseFormRegister } from "react-hook-form";
import { Button } from "@/ui/button";
import type { BenchFields } from "./bench-fields";

export interface RowsProps {
  control: Control<BenchFields>;
  register: UseFormRegister<BenchFields>;
  errors: FieldErrors<BenchFields>;
}

/** A list of a form: a title, its rows, and one more. */
export function Rows({
  title,
  hint,
  add,
  onAdd,
  children,
}: {
  title: string;
  hint: string;
  add: string;
  onAdd: () => void;
  children: ReactNode;
}) {
  return (
    <fieldset className="grid gap-2">
      <legend className="mb-1 font-firm">{title}</legend>
      <p className="text-sm text-ink2">{hint}</p>
      {children}
      <Button size="low" className="justify-self-start" onClick={onAdd}>
        {add}
      </Button>
    </fieldset>
  );
}

/** One row, with the cross that removes it. */
export function Row({
  columns,
  name,
  first,
  onRemove,
  children,
}: {
  columns: string;
  name: string;
  /** On a wide screen only the first row shows the labels. */
  first: boolean;
  onRemove: () => void;
  children: ReactNode;
}) {
  return (
    <div
      role="group"
      aria-label={name}
      className={`grid grid-cols-2 items-start gap-2 border-t border-hair pt-2 sm:border-0 sm:pt-0 ${columns} ${first ? "" : "sm:[&_label]:sr-only"}`}
    >
      {children}
      <button
        type="button"
        aria-label={`Remove ${name}`}
        className={`mt-6 justify-self-start rounded p-2 hover:bg-hair ${first ? "" : "sm:mt-0.5"}`}
        onClick={onRemove}
      >
        <X size={16} aria-hidden />
      </button>
    </div>
  );
}
