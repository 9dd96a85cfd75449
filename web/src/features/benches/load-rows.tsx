import { useFieldArray } from "react-hook-form";
import { TextField } from "@/ui/field";
import { Row, Rows, type RowsProps } from "./rows";

/** The resistors there are, a kind a row. */
export function LoadRows({ control, register, errors }: RowsProps) {
  const { fields, append, remove } = useFieldArray({ control, name: "loads" });
  const blank = { nominal: "", measured: "", tolerance: "", continuous: "", short: "", count: "1" };
  return (
    <Rows
      title="Resistors"
      hint="How many of each there are. Measure them warm; below 1 Ω with four wires."
      add="Add a resistor"
      onAdd={() => append(blank)}
    >
      {fields.map((field, i) => {
        const error = errors.loads?.[i];
        return (
          <Row
            key={field.id}
            columns="sm:grid-cols-[repeat(6,minmax(0,1fr))_40px]"
            name={`resistor ${String(i + 1)}`}
            first={i === 0}
            onRemove={() => remove(i)}
          >
            <TextField label="Nominal" unit="Ω" inputMode="decimal" error={error?.nominal?.message} {...register(`loads.${i}.nominal`)} />
            <TextField
              label="Measured"
              unit="Ω"
              inputMode="decimal"
              error={error?.measured?.message}
              {...register(`loads.${i}.measured`)}
            />
            <TextField
              label="Tolerance"
              unit="%"
              inputMode="decimal"
              error={error?.tolerance?.message}
              {...register(`loads.${i}.tolerance`)}
            />
            <TextField
              label="Continuous"
              unit="W"
              inputMode="decimal"
              error={error?.continuous?.message}
              {...register(`loads.${i}.continuous`)}
            />
            <TextField label="Ten seconds" unit="W" inputMode="decimal" error={error?.short?.message} {...register(`loads.${i}.short`)} />
            <TextField label="Count" inputMode="numeric" error={error?.count?.message} {...register(`loads.${i}.count`)} />
          </Row>
        );
      })}
    </Rows>
  );
}
