import { Dialog as Radix } from "radix-ui";
import { X } from "lucide-react";
import type { ReactNode } from "react";
import { goHome } from "./use-keys";
import { cn } from "./cn";

/** A dialog with a title; Esc and the cross close it, and the focus goes back to the line of the page. */
export function Dialog({
  open,
  onClose,
  title,
  children,
  width = "max-w-[640px]",
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  width?: string;
}) {
  return (
    <Radix.Root
      open={open}
      onOpenChange={(next) => {
        if (!next) onClose();
      }}
    >
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-[#0b1210]/45" />
        <Radix.Content
          aria-describedby={undefined}
          data-modal
          onCloseAutoFocus={(event) => {
            if (goHome()) event.preventDefault();
          }}
          className={cn(
            "fixed top-[8vh] left-1/2 z-50 max-h-[86vh] w-[calc(100vw-24px)] -translate-x-1/2 overflow-auto rounded-lg border border-line bg-sheet p-5 shadow-xl",
            width,
          )}
        >
          <div className="mb-3 flex items-center justify-between">
            <Radix.Title className="wide text-xl font-bold">{title}</Radix.Title>
            <Radix.Close aria-label="Close" className="rounded p-1 hover:bg-hair">
              <X size={18} aria-hidden />
            </Radix.Close>
          </div>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
