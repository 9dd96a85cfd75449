import { useController, type Control, type FieldPath, type FieldValues } from "react-hook-form";
import { ChoiceField, type ChoiceProps } from "./choice";

/** A choice among few as a field of a form. */
export function FormChoice<Fields extends FieldValues, Name extends FieldPath<Fields>>({
  control,
  name,
  ...rest
}: Omit<ChoiceProps, "value" | "onChoose"> & { control: Control<Fields>; name: Name }) {
  const { field } = useController({ control, name });
  return <ChoiceField {...rest} value={field.value as string} onChoose={field.onChange} />;
}
