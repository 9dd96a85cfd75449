import { ChevronRight } from "lucide-react";
import { Collapsible } from "radix-ui";
import type { ReactNode } from "react";
import { cn } from "./cn";

/** A line that opens what belongs to it. */
export function Disclosure({ says, className, children }: { says: ReactNode; className?: string; children: ReactNode }) {
  return (
    <Collapsible.Root className={cn("group/open", className)}>
      <Collapsible.Trigger className="flex w-full items-start gap-1 rounded text-left leading-snug underline-offset-3 hover:underline">
        <ChevronRight
          size={15}
          aria-hidden
          className="mt-px flex-none text-ink2 transition-transform group-data-[state=open]/open:rotate-90 no-print"
        />
        <span className="min-w-0">{says}</span>
      </Collapsible.Trigger>
      <Collapsible.Content>{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}
