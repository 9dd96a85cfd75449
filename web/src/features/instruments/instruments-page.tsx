import { useInstruments } from "@/api/queries";
import { Failed, Loading } from "@/ui/states";
import { LinkCard } from "./link-card";
import { StandInCard } from "./stand-in-card";

/** Where the instruments are, how they are spoken to, and each line tried by hand. */
export function InstrumentsPage() {
  const { data: view, error, refetch } = useInstruments();
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!view) return <Loading />;
  return (
    <main className="mx-auto w-full max-w-[1180px] px-4 py-6 sm:px-8">
      <h1 className="wide text-3xl font-bold">Instruments</h1>
      <p className="mt-1 max-w-[760px] text-ink2">
        Pukka speaks SCPI over TCP, by a profile for each instrument. Any of the four may be wanting: without a generator you raise the
        level and Pukka reads; without an analyser you log by hand.
      </p>
      <StandInCard />
      <div className="mt-4 grid items-start gap-3 lg:grid-cols-2">
        {view.links.map((link) => (
          <LinkCard key={link.role} link={link} generic={view.generic} />
        ))}
      </div>
    </main>
  );
}
