import { Tooltip } from "radix-ui";
import type { ReactElement } from "react";

/** A few words about a control, on hover and on focus. What it is called it says itself. */
export function Tip({ says, children }: { says: string; children: ReactElement }) {
  return (
    <Tooltip.Provider delayDuration={500}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={6}
            collisionPadding={12}
            className="z-50 max-w-[320px] rounded-md bg-ink px-2.5 py-1.5 text-note leading-snug text-sheet shadow-md"
          >
            {says}
            <Tooltip.Arrow className="fill-ink" />
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  );
}
