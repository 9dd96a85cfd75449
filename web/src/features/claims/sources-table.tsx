import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";
import { loadWords, wiringKey, wiringWords } from "@/ui/wirings";
import { Watts } from "./claim-table";

type ClaimView = Schemas["ClaimView"];

interface Place {
  key: string;
  words: string;
  rows: ClaimView[];
}

/** Claims of one wiring, load, setting and kind stand in one line, whatever printed them. */
function placesOf(rows: ClaimView[]): Place[] {
  const places = new Map<string, Place>();
  for (const row of rows) {
    const { claim } = row;
    const wired = claim.wiring ? wiringWords(claim.wiring) : "not given";
    const loads = loadWords(claim.wiring, claim.load_ohm);
    const load = loads === null ? "" : `, ${loads}`;
    const key = [claim.wiring ? wiringKey(claim.wiring) : "", loads, claim.setting, claim.kind, claim.supply_v].join(" ");
    const words = `${wired}${load}${claim.setting ? `, ${claim.setting}` : ""}${claim.kind === "max" ? ", “max”" : ""}`;
    const place = places.get(key) ?? { key, words, rows: [] };
    place.rows.push(row);
    places.set(key, place);
  }
  return [...places.values()];
}

/** What each source says of one thing, side by side; the reviewer marks which one the verdict uses. */
export function SourcesTable({ rows }: { rows: ClaimView[] }) {
  const { tell } = useNotice();
  const use = useWrite(({ row, others }: { row: ClaimView; others: ClaimView[] }) =>
    data(api.POST("/api/claims/{id}/choice", { params: { path: { id: row.id } }, body: { instead_of: others.map((other) => other.id) } })),
  );
  const sources = [...new Set(rows.map((row) => row.claim.source))];
  const places = placesOf(rows).filter((place) => place.rows.length > 1);
  if (sources.length < 2 || places.length === 0) return null;
  const choose = (row: ClaimView, place: Place) =>
    use.mutate(
      { row, others: place.rows.filter((other) => other.id !== row.id) },
      {
        onSuccess: () => tell({ says: `The verdict uses the ${row.claim.source}’s figure.`, look: "plain", undo: true }),
        onError: (error) => tell({ says: error.message, look: "stop" }),
      },
    );
  return (
    <section aria-label="Sources side by side" className="mt-7">
      <h2 className="text-note font-firm text-ink2">Sources side by side: choose which one the verdict uses</h2>
      <div className="mt-2 overflow-x-auto">
        <table className="border-collapse">
          <thead>
            <tr>
              <th scope="col" className="border-b border-line py-1.5 pr-6 text-left text-sm font-medium text-ink2">
                Claim
              </th>
              {sources.map((source) => (
                <th key={source} scope="col" className="border-b border-line py-1.5 pr-6 text-left text-sm font-medium text-ink2">
                  {source}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {places.map((place) => (
              <tr key={place.key}>
                <th scope="row" className="border-b border-hair py-1.5 pr-6 text-left font-normal">
                  {place.words}
                </th>
                {sources.map((source) => {
                  const row = place.rows.find((candidate) => candidate.claim.source === source);
                  return (
                    <td key={source} className="border-b border-hair py-1.5 pr-6">
                      {row ? (
                        <button
                          type="button"
                          aria-pressed={row.claim.used ?? false}
                          disabled={use.isPending}
                          className="rounded border border-dashed border-edge px-2 py-0.5 text-ink2 hover:bg-hair aria-pressed:border-solid aria-pressed:border-verdigris aria-pressed:bg-verdigris-wash aria-pressed:text-ink"
                          onClick={() => choose(row, place)}
                        >
                          {row.claim.used && <span aria-hidden>✓ </span>}
                          <Watts claim={row.claim} />
                          <span className="sr-only">, from the {source}: use it</span>
                        </button>
                      ) : (
                        <span className="text-ink3">says nothing</span>
                      )}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
