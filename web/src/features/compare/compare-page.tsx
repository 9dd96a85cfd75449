import { useState } from "react";
import { queries } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { ChoiceField, type Option } from "@/ui/choice";
import { useNotice } from "@/ui/notice";
import { Segments } from "@/ui/segments";
import { Failed, Loading } from "@/ui/states";
import { useTitle } from "@/ui/use-title";
import { ViewsMenu } from "../views/views-menu";
import { CompareFilters } from "./compare-filters";
import { CompareTabs } from "./compare-tabs";
import { MoneyDialog } from "./money-dialog";
import { SideBySide } from "./side-by-side";
import { MOST, useCompare, type Compare } from "./use-compare";
import { ValueChart } from "./value-chart";
import { WorthTable } from "./worth-table";

const VOLTS: readonly Option[] = ["12.5", "13.8", "14.4"].map((volts) => [volts, `at ${volts}\u202fV`] as const);

/** Clean watts against price, and chosen amplifiers side by side at one voltage. */
export function ComparePage() {
  useTitle("Compare");
  const compare = useCompare();
  const { ids, toggle } = compare;
  const load = compare.text("load");
  const [rates, setRates] = useState(false);
  const {
    data: worth,
    error,
    refetch,
  } = queries.useQuery("get", "/api/worth", { params: { query: compare.asked } }, { placeholderData: (before) => before });
  const money = queries.useQuery("get", "/api/money").data;
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!worth) return <Loading />;
  const inCurrency = (amount: number) => {
    const digits = amount >= 1 ? 0 : 2;
    return new Intl.NumberFormat("en-GB", {
      style: "currency",
      currency: worth.currency,
      minimumFractionDigits: digits,
      maximumFractionDigits: digits,
    }).format(amount);
  };
  return (
    <main className="grid min-w-0 grid-cols-[minmax(0,1fr)] lg:min-h-full lg:grid-cols-[minmax(0,1fr)_420px]">
      <section aria-label="Clean watts against price" className="min-w-0 px-5 py-5">
        <CompareTabs />
        <div className="mt-2 flex flex-wrap items-center gap-2">
          <h1 className="wide text-3xl font-bold">Clean watts against price</h1>
          <span className="ml-auto flex gap-2">
            <ViewsMenu page="compare" path="/compare" className={buttonClass("plain", "low")} />
            <Button size="low" onClick={() => setRates(true)}>
              Currencies
            </Button>
          </span>
        </div>
        <div className="mt-2 flex flex-wrap items-end gap-2">
          <CompareFilters compare={compare} />
          {rates && money && <MoneyDialog money={money} missing={worth.no_rate_for} onClose={() => setRates(false)} />}
        </div>
        {worth.no_rate_for.length > 0 && (
          <p className="mt-2 rounded bg-ochre-wash px-3 py-1.5 text-step">
            No rate for {worth.no_rate_for.join(", ")}: amplifiers with prices in it have no place.{" "}
            <button type="button" className="underline" onClick={() => setRates(true)}>
              Add one
            </button>
          </p>
        )}
        <div className="mt-3 rounded-lg border border-line bg-sheet p-2">
          <ValueChart rows={worth.rows} ids={ids} money={inCurrency} toggle={toggle} />
        </div>
        <p className="mt-1.5 mb-2 text-note text-ink2">
          Certified power at 14.4&#8239;V, {load === "" ? "at the claimed load where it is most" : `at ${load}\u202fΩ`}, in total. Dotted:
          one price a watt.{worth.rows.some((row) => row.claims_only) && " Dashed: not tested, drawn at what is claimed."}
        </p>
        {worth.rows.length === 0 ? (
          <p className="py-6 text-ink2">Nothing on the shelf is like that.</p>
        ) : (
          <WorthTable
            rows={worth.rows}
            ids={ids}
            full={ids.length >= MOST}
            toggle={toggle}
            rivals={(watts) => compare.set("claim_near", String(Math.round(watts)))}
          />
        )}
      </section>
      <Beside compare={compare} />
    </main>
  );
}

/** The chosen ones. */
function Beside({ compare }: { compare: Compare }) {
  const { tell } = useNotice();
  const { ids, volts, per } = compare;
  const { data, error } = queries.useQuery(
    "get",
    "/api/comparison",
    { params: { query: { ids: ids.join(","), volts, per } } },
    { enabled: ids.length > 0, placeholderData: (before) => before },
  );
  const share = () => {
    navigator.clipboard
      .writeText(window.location.href)
      .then(() => tell({ says: "The link was copied.", look: "plain" }))
      .catch(() => tell({ says: "This browser does not let links be copied here: copy the address.", look: "stop" }));
  };
  return (
    <aside
      aria-label="Side by side"
      className="min-w-0 border-l border-line bg-sheet px-5 py-5 max-lg:border-t max-lg:border-l-0 lg:sticky lg:top-[52px] lg:h-[calc(100vh-52px)] lg:overflow-y-auto"
    >
      <div className="flex flex-wrap items-end gap-2">
        <h2 className="mr-auto text-xl font-bold">Side by side</h2>
        <ChoiceField
          quiet
          className="w-32"
          label="Supply"
          options={VOLTS}
          value={String(volts)}
          onChoose={(value) => compare.set("volts", value)}
        />
        <Segments
          label="Power"
          options={[
            ["total", "in total"],
            ["output", "an output"],
          ]}
          value={per}
          onChoose={(value) => compare.set("per", value === "total" ? "" : value)}
        />
      </div>
      {ids.length === 0 ? (
        <p className="mt-3 text-ink2">Tick up to {String(MOST)} amplifiers, or press their points.</p>
      ) : error ? (
        <p role="alert" className="mt-3 text-stop">
          {(error as { detail?: string }).detail ?? "They cannot be compared."}
        </p>
      ) : (
        data && (
          <>
            <div className="my-3 flex gap-2">
              <Button size="low" onClick={share}>
                Copy the link
              </Button>
              <a
                className={buttonClass("plain", "low")}
                download="compare.png"
                href={`/api/comparison/cards/compare.png?${new URLSearchParams({ ids: ids.join(","), volts: String(volts), per }).toString()}`}
              >
                As a card
              </a>
              <Button size="low" look="quiet" onClick={compare.clear}>
                Clear
              </Button>
            </div>
            <SideBySide comparison={data} />
          </>
        )
      )}
    </aside>
  );
}
