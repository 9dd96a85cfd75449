import { lazy, Suspense, type ComponentProps } from "react";

const RampPlots = lazy(async () => ({ default: (await import("./ramp-plots")).RampPlots }));

/** The plots of a run, fetched with their library when a run is first looked at; their place is kept meanwhile. */
export function LazyRampPlots(props: ComponentProps<typeof RampPlots>) {
  return (
    <Suspense fallback={<div className="h-[240px]" />}>
      <RampPlots {...props} />
    </Suspense>
  );
}
