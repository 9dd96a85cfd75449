import { Select } from "radix-ui";
import { Check, ChevronDown } from "lucide-react";
import { useId } from "react";
import { CONTROL, describedBy, Surround, type Around } from "./field";

/** A value and the words it goes by. */
export type Option = readonly [value: string, words: string];

/** Radix keeps the empty value for "nothing chosen": an option that is empty goes by another name inside. */
const NOTHING = "\u2205";

export interface ChoiceProps extends Around {
  options: readonly Option[];
  value: string;
  onChoose: (value: string) => void;
}

/** A labelled choice among few. */
export function ChoiceField({ label, hint, error, className, quiet, options, value, onChoose }: ChoiceProps) {
  const id = useId();
  const around = { label, hint, error, className: className ?? "", quiet: quiet ?? false };
  return (
    <Surround id={id} {...around}>
      <Select.Root value={value === "" ? NOTHING : value} onValueChange={(next) => onChoose(next === NOTHING ? "" : next)}>
        <Select.Trigger
          id={id}
          data-value={value}
          className={`flex items-center justify-between gap-2 text-left ${CONTROL}`}
          aria-invalid={error ? true : undefined}
          aria-describedby={describedBy(id, around)}
          onKeyDown={(event) => {
            // Enter finishes a form from any of its fields; Space and the arrows open the list.
            const { form } = event.currentTarget;
            if (event.key !== "Enter" || !form) return;
            event.preventDefault();
            form.requestSubmit();
          }}
        >
          <span className="min-w-0 truncate">
            <Select.Value />
          </span>
          <Select.Icon>
            <ChevronDown size={16} aria-hidden />
          </Select.Icon>
        </Select.Trigger>
        <Select.Portal>
          <Select.Content
            position="popper"
            sideOffset={4}
            collisionPadding={12}
            className="z-[55] max-h-(--radix-select-content-available-height) max-w-[calc(100vw-24px)] min-w-(--radix-select-trigger-width) overflow-hidden rounded-md border border-edge bg-field text-ink shadow-lg"
          >
            <Select.Viewport className="p-1">
              {options.map(([one, words]) => (
                <Select.Item
                  key={one}
                  value={one === "" ? NOTHING : one}
                  data-value={one}
                  className="flex min-h-9 cursor-pointer items-center justify-between gap-4 rounded px-2.5 py-1 outline-none select-none data-[highlighted]:bg-verdigris-wash"
                >
                  <Select.ItemText>{words}</Select.ItemText>
                  <Select.ItemIndicator>
                    <Check size={15} aria-hidden />
                  </Select.ItemIndicator>
                </Select.Item>
              ))}
            </Select.Viewport>
          </Select.Content>
        </Select.Portal>
      </Select.Root>
    </Surround>
  );
}

/** Options out of a table of words. */
export const optionsOf = (words: Record<string, string>): Option[] => Object.entries(words);
