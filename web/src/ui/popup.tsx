import { Popover } from "radix-ui";
import type { ReactNode, RefObject } from "react";
import { cn } from "./cn";

/** What a button opened beside itself. Fetched when the first one is opened: no page needs it to be shown. */
export function Popup({
  by,
  label,
  className,
  onClose,
  children,
}: {
  /** The button. */
  by: RefObject<HTMLButtonElement | null>;
  label: string;
  className?: string;
  onClose: () => void;
  children: ReactNode;
}) {
  return (
    <Popover.Root open onOpenChange={(open) => !open && onClose()}>
      <Popover.Anchor virtualRef={by as RefObject<HTMLButtonElement>} />
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={12}
          aria-label={label}
          className={cn(
            "z-50 max-h-[var(--radix-popover-content-available-height)] w-[380px] max-w-[calc(100vw-24px)] overflow-auto rounded-lg border border-edge bg-sheet p-4 text-base text-ink shadow-lg",
            className,
          )}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            by.current?.focus();
          }}
          // The button itself closes it by its own click.
          onInteractOutside={(event) => by.current?.contains(event.target as Node) && event.preventDefault()}
        >
          {children}
          <Popover.Arrow className="fill-edge" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
