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
        Pukka speaks to instruments over the network or a serial port, by a profile for each. Any of them may be missing: without a
        generator you raise the level and Pukka reads; without an analyser you log by hand. A supply under control is set to the claim’s
        voltage, and cut on an alarm.
      </p>
      <StandInCard />
      <div className="mt-4 grid items-start gap-3 lg:grid-cols-2">
        {view.links.map((link) => (
          <LinkCard key={link.role} link={link} profiles={view.shipped.filter((profile) => profile.serves.includes(link.role))} />
        ))}
      </div>
    </main>
  );
}
