import { useFieldArray } from "react-hook-form";
import { FormChoice } from "@/ui/form-choice";
import { TextField } from "@/ui/field";
import type { Quantity } from "./bench-fields";
import { Row, Rows, type RowsProps } from "./rows";

const QUANTITIES: [Quantity, string][] = [
  ["power", "output watts"],
  ["voltage", "output volts"],
  ["current", "supply amps"],
  ["supply_voltage", "supply volts"],
  ["resistance", "ohms of a load"],
];

/** The meters there are, and how far each may be off. */
export function MeterRows({ control, register, errors }: RowsProps) {
  const { fields, append, remove } = useFieldArray({ control, name: "meters" });
  const blank = { id: "", name: "", quantity: "power" as const, ratio: "", absolute: "", checked: "" };
  return (
    <Rows
      title="Meters"
      hint="Limits as their makers state them: a percentage of the reading plus a fixed amount. Usual values stand in where none is entered."
      add="Add a meter"
      onAdd={() => append(blank)}
    >
      {fields.map((field, i) => {
        const error = errors.meters?.[i];
        return (
          <Row
            key={field.id}
            columns="sm:grid-cols-[1.1fr_1.8fr_1.4fr_1fr_1fr_1.4fr_40px]"
            name={`meter ${String(i + 1)}`}
            first={i === 0}
            onRemove={() => remove(i)}
          >
            <TextField label="Short name" error={error?.id?.message} {...register(`meters.${i}.id`)} />
            <TextField label="What it is" error={error?.name?.message} {...register(`meters.${i}.name`)} />
            <FormChoice label="Reads" control={control} name={`meters.${i}.quantity`} options={QUANTITIES} />
            <TextField label="± of reading" unit="%" inputMode="decimal" error={error?.ratio?.message} {...register(`meters.${i}.ratio`)} />
            <TextField label="plus fixed ±" inputMode="decimal" error={error?.absolute?.message} {...register(`meters.${i}.absolute`)} />
            <TextField label="Last checked" type="date" error={error?.checked?.message} {...register(`meters.${i}.checked`)} />
          </Row>
        );
      })}
    </Rows>
  );
}
