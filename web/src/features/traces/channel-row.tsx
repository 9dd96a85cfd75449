import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { subjectOf } from "./words";

/** The channels of a recording, the way to their scales, and the keys of the wave. */
export function ChannelRow({
  channels,
  at,
  turn,
  onScales,
  onCutsBack,
}: {
  channels: readonly Schemas["TraceChannel"][];
  at: number;
  turn: (by: number) => void;
  onScales: () => void;
  /** Puts cuts that were moved back to where they were found. */
  onCutsBack: (() => void) | undefined;
}) {
  return (
    <div className="flex flex-wrap items-center gap-2">
      {channels.map((one, i) => (
        <button
          key={i}
          type="button"
          aria-pressed={i === at}
          className={`rounded-md border px-3 py-1.5 text-step font-firm ${i === at ? "border-top bg-top text-white" : "border-line bg-sheet hover:border-edge"}`}
          onClick={() => turn(i - at)}
        >
          {i + 1} {subjectOf(one)}
        </button>
      ))}
      <Button size="low" onClick={onScales}>
        Scales <Kbd>S</Kbd>
      </Button>
      {onCutsBack && (
        <Button size="low" look="quiet" onClick={onCutsBack}>
          Cuts as found
        </Button>
      )}
      <span className="ml-auto flex flex-wrap gap-3 text-sm text-ink2 max-md:hidden">
        <span>
          <Kbd>←</Kbd> <Kbd>→</Kbd> along
        </span>
        <span>
          <Kbd>+</Kbd> <Kbd>−</Kbd> <Kbd>0</Kbd> zoom
        </span>
        <span>
          <Kbd>[</Kbd> <Kbd>]</Kbd> channel
        </span>
        <span>
          <Kbd>,</Kbd> <Kbd>.</Kbd> stretch
        </span>
      </span>
    </div>
  );
}
