import { useController, type Control, type FieldPath, type FieldValues } from "react-hook-form";
import { Check } from "./check";
import { cn } from "./cn";

/** A tick box as a field of a form. */
export function FormTick<Fields extends FieldValues, Name extends FieldPath<Fields>>({
  control,
  name,
  label,
  className,
}: {
  control: Control<Fields>;
  name: Name;
  label: string;
  className?: string;
}) {
  const { field } = useController({ control, name });
  return (
    <div className={cn(className)}>
      <Check label={label} checked={field.value as boolean} onChange={field.onChange} />
    </div>
  );
}
