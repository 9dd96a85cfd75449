import { ToggleGroup } from "radix-ui";

/** One of a few, all of them in sight. */
export function Segments<T extends string>({
  label,
  options,
  value,
  disabled,
  onChoose,
}: {
  label: string;
  options: readonly (readonly [T, string])[];
  value: T;
  disabled?: boolean;
  onChoose: (value: T) => void;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      disabled={disabled ?? false}
      onValueChange={(next) => {
        const chosen = options.find(([one]) => one === next)?.[0];
        if (chosen !== undefined && chosen !== value) onChoose(chosen);
      }}
      className="flex overflow-hidden rounded-md border border-line bg-sheet"
    >
      {options.map(([one, words]) => (
        <ToggleGroup.Item
          key={one}
          value={one}
          className="px-3 py-[7px] text-step font-firm text-ink not-first:border-l not-first:border-line hover:bg-hair data-[state=on]:bg-top data-[state=on]:text-white"
        >
          {words}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
