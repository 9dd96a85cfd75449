import { queries } from "@/api/queries";
import { Failed, Loading } from "@/ui/states";
import { useTitle } from "@/ui/use-title";
import { CompareTabs } from "../compare/compare-tabs";
import { BenchOverTime } from "./bench-over-time";
import { Fates } from "./fates";
import { Makers } from "./makers";
import { KinGroups } from "./kin-groups";

/** What the shelf and the bench taught, over all amplifiers. */
export function LessonsPage() {
  useTitle("What the bench taught");
  const { data: taught, error, refetch } = queries.useQuery("get", "/api/lessons");
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!taught) return <Loading />;
  return (
    <main className="mx-auto w-full max-w-[1360px] min-w-0 px-5 py-5">
      <CompareTabs />
      <h1 className="wide mt-2 text-3xl font-bold">What the bench taught</h1>
      {taught.amplifiers === 0 ? (
        <p className="py-6 text-ink2">Nothing was run yet. Each amplifier that is run adds to what stands here.</p>
      ) : (
        <>
          <p className="text-step text-ink2">
            Over the {taught.amplifiers} amplifiers of this shelf that were run, each by its session in hand. Nothing comes from outside.
          </p>
          <div className="mt-4 grid items-start gap-x-8 gap-y-6 lg:grid-cols-2">
            <div className="grid min-w-0 gap-6">
              <Makers makers={taught.makers} />
              <KinGroups groups={taught.kin} />
            </div>
            <div className="grid min-w-0 gap-6">
              <Fates tables={taught.fates} />
              <BenchOverTime taught={taught} />
            </div>
          </div>
        </>
      )}
    </main>
  );
}
