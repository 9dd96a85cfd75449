import { useFieldArray, useWatch, type Control } from "react-hook-form";
import { queries } from "@/api/queries";
import { TextField } from "@/ui/field";
import { Figure } from "@/ui/figure";
import type { BenchFields } from "./bench-fields";
import { Row, Rows, type RowsProps } from "./rows";

/** Leads that carry the supply current, and what each costs at 100 A. */
export function LeadRows({ control, register, errors }: RowsProps) {
  const { fields, append, remove } = useFieldArray({ control, name: "leads" });
  return (
    <Rows
      title="Supply leads"
      hint="Length each way; the section as 50 mm² or 1/0 AWG."
      add="Add a lead"
      onAdd={() => append({ name: "", length: "", section: "" })}
    >
      {fields.map((field, i) => {
        const error = errors.leads?.[i];
        return (
          <div key={field.id} className="grid gap-1">
            <Row columns="sm:grid-cols-[2fr_1fr_1fr_40px]" name={`lead ${String(i + 1)}`} first={i === 0} onRemove={() => remove(i)}>
              <TextField label="From where to where" error={error?.name?.message} {...register(`leads.${i}.name`)} />
              <TextField label="Length" unit="m" inputMode="decimal" error={error?.length?.message} {...register(`leads.${i}.length`)} />
              <TextField label="Section" placeholder="50 mm²" error={error?.section?.message} {...register(`leads.${i}.section`)} />
            </Row>
            <LeadCost control={control} index={i} />
          </div>
        );
      })}
    </Rows>
  );
}

function LeadCost({ control, index }: { control: Control<BenchFields>; index: number }) {
  const [length, section] = useWatch({ control, name: [`leads.${index}.length`, `leads.${index}.section`] });
  const metres = Number(length.replace(",", "."));
  const ready = metres > 0 && section.trim() !== "";
  const asked = queries.useQuery(
    "get",
    "/api/arithmetic/lead",
    { params: { query: { length_m: metres, section, current_a: 100 } } },
    { enabled: ready, retry: false },
  );
  if (!ready || !asked.data) return null;
  return (
    <p className="text-step text-ink2">
      {`${asked.data.section_mm2.toFixed(1)}\u202fmm²: at 100\u202fA it drops `}
      <Figure figure={asked.data.drop_v} />, and turns <Figure figure={asked.data.heat_w} /> to heat.
    </p>
  );
}
