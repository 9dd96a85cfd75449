import { useState } from "react";
import { useBenches } from "@/api/queries";
import { Button } from "@/ui/button";
import { Empty, Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { BenchForm } from "./bench-form";

/** The benches that sessions stand on: supply, resistors, meters, leads. */
export function BenchesPage() {
  const benches = useBenches();
  const [chosen, setChosen] = useState<string | "new" | null>(null);
  useKeys({ n: () => setChosen("new") });
  if (benches.isPending) return <Loading />;
  if (benches.isLoadingError) return <Failed error={benches.error} retry={() => void benches.refetch()} />;
  const all = benches.data.benches;
  const here = chosen === "new" ? null : (all.find((bench) => bench.id === chosen) ?? all[0] ?? null);
  return (
    <div className="grid flex-1 grid-cols-1 content-start lg:grid-cols-[250px_1fr] lg:content-stretch">
      <nav aria-label="Benches" className="border-line px-5 py-[18px] lg:border-r">
        <h2 className="text-note font-firm text-ink2">Benches</h2>
        <ul className="mt-2 grid gap-0.5">
          {all.map((bench) => (
            <li key={bench.id}>
              <button
                type="button"
                aria-current={here?.id === bench.id || undefined}
                className="w-full rounded-md px-2.5 py-1.5 text-left hover:bg-hair aria-[current]:bg-sheet aria-[current]:font-semibold"
                onClick={() => setChosen(bench.id)}
              >
                {bench.profile.name}
                <small className="block text-sm font-normal text-ink2">
                  {bench.sessions === 1 ? "1 session" : `${String(bench.sessions)} sessions`}
                </small>
              </button>
            </li>
          ))}
        </ul>
        <Button size="low" className="mt-3" onClick={() => setChosen("new")}>
          Add a bench
        </Button>
      </nav>
      <main className="min-w-0 px-4 py-[18px] sm:px-[22px]">
        {here === null && chosen !== "new" ? (
          <Empty title="No bench entered yet.">
            <p>
              Enter what feeds the amplifiers, the resistors they drive and the meters they are read with. Pukka then says which loads can
              be made, how far the supply will sag, and how far each figure can be trusted.
            </p>
            <Button look="main" onClick={() => setChosen("new")}>
              Add a bench
            </Button>
          </Empty>
        ) : (
          <BenchForm key={here?.id ?? "new"} bench={here} onSaved={setChosen} />
        )}
      </main>
    </div>
  );
}
