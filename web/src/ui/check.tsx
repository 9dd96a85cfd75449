import { Checkbox } from "radix-ui";
import { Check as Tick } from "lucide-react";
import { useId } from "react";

/** A labelled tick box. */
export function Check({
  label,
  name,
  checked,
  onChange,
}: {
  label: string;
  name?: string;
  checked: boolean;
  onChange: (on: boolean) => void;
}) {
  const id = useId();
  return (
    <div className="flex items-center gap-2">
      <Checkbox.Root
        id={id}
        aria-label={name}
        checked={checked}
        onCheckedChange={(on) => onChange(on === true)}
        className="grid size-[18px] place-items-center rounded border border-edge bg-field data-[state=checked]:border-verdigris data-[state=checked]:bg-verdigris"
      >
        <Checkbox.Indicator>
          <Tick size={14} strokeWidth={3} className="text-on-verdigris" aria-hidden />
        </Checkbox.Indicator>
      </Checkbox.Root>
      {label !== "" && <label htmlFor={id}>{label}</label>}
    </div>
  );
}
