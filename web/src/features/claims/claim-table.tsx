import { Pencil, Trash2 } from "lucide-react";
import type { Schemas } from "@/api/client";
import { inThousands, writePercent } from "@/ui/numbers";
import { loadWords, wiringWords } from "@/ui/wirings";

type ClaimView = Schemas["ClaimView"];
type Claim = Schemas["Claim"];
type AddsUp = Schemas["AddsUp"];

const KINDS: Record<Claim["kind"], string> = { rms: "RMS", max: "“max”", unstated: "not stated" };

const TONES: Record<Schemas["Weight"], string> = { unlikely: "text-stop", doubt: "text-ochre", note: "text-ink2" };

export const kindWords = (claim: Claim) =>
  [KINDS[claim.kind], claim.thd_limit_ratio != null && `${writePercent(claim.thd_limit_ratio)} %`].filter(Boolean).join(", ");

/** The watts of each group of a mixed wiring: "2 × 75 + 300". */
function GroupWatts({ claim }: { claim: Claim }) {
  const groups = claim.wiring?.kind === "mixed" ? claim.wiring.groups : [];
  const one = (watts: number, i: number) => {
    const wiring = groups[i]?.wiring;
    const outputs = claim.per === "total" || !wiring ? 1 : wiring.kind === "channels" ? wiring.driven : wiring.pairs;
    return `${outputs > 1 ? `${String(outputs)} × ` : ""}${inThousands(watts)}`;
  };
  return <span className="num text-lg whitespace-nowrap">{claim.group_power_w?.map(one).join(" + ")}</span>;
}

export function Watts({ claim }: { claim: Claim }) {
  if (claim.group_power_w?.length) return <GroupWatts claim={claim} />;
  if (claim.power_w == null) return <span className="text-ink2">none given</span>;
  const grouped = inThousands(claim.power_w);
  const outputs =
    claim.per === "output" && claim.wiring && "driven" in claim.wiring
      ? claim.wiring.driven
      : claim.per === "output" && claim.wiring && "pairs" in claim.wiring
        ? claim.wiring.pairs
        : 1;
  return (
    <span className="num text-lg whitespace-nowrap">
      {outputs > 1 && <>{outputs} × </>}
      {grouped}
      {claim.per === "total" && <span className="ml-1 font-sans text-sm tracking-normal text-ink2">in total</span>}
    </span>
  );
}

const head = "border-b border-line py-1.5 pr-2.5 text-left text-sm font-medium text-ink2";
const cell = "border-b border-hair py-[11px] pr-2.5 align-top";

/** The claims, a line each. */
export function ClaimTable({
  rows,
  addsUp,
  onEdit,
  onRemove,
}: {
  rows: ClaimView[];
  /** How each line comes out of the sense-check. */
  addsUp: AddsUp[];
  onEdit: (row: ClaimView) => void;
  onRemove: (row: ClaimView) => void;
}) {
  return (
    <div className="relative mt-2.5 overflow-x-auto">
      <table className="w-full border-collapse">
        <thead>
          <tr>
            {["Where", "Wired as", "Load", "Watts", "Kind", "At", "Adds up?"].map((name) => (
              <th key={name} scope="col" className={head}>
                {name}
              </th>
            ))}
            <th scope="col" className={head}>
              <span className="sr-only">Change or remove</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <ClaimRow key={row.id} row={row} addsUp={addsUp.find((line) => line.claim_id === row.id)} onEdit={onEdit} onRemove={onRemove} />
          ))}
        </tbody>
      </table>
    </div>
  );
}

function ClaimRow({
  row,
  addsUp,
  onEdit,
  onRemove,
}: {
  row: ClaimView;
  addsUp: AddsUp | undefined;
  onEdit: (row: ClaimView) => void;
  onRemove: (row: ClaimView) => void;
}) {
  const { claim } = row;
  const load = loadWords(claim.wiring, claim.load_ohm);
  const name = `${claim.source}, ${claim.wiring ? wiringWords(claim.wiring) : "in total"}, ${load ?? "no load"}`;
  const none = <span className="text-ink2">none given</span>;
  return (
    <tr className={claim.used ? "" : "text-ink2 line-through decoration-edge"}>
      <td className={cell}>
        {claim.source}
        {!claim.used && <small className="block text-sm text-ink2 no-underline">kept, not used</small>}
      </td>
      <td className={cell}>
        {claim.wiring ? wiringWords(claim.wiring) : "not given"}
        {claim.setting && <small className="block text-sm text-ink2">{claim.setting}</small>}
      </td>
      <td className={`${cell} num whitespace-nowrap`}>{load ?? none}</td>
      <td className={cell}>
        <Watts claim={claim} />
      </td>
      <td className={`${cell} whitespace-nowrap`}>{kindWords(claim)}</td>
      <td className={`${cell} num whitespace-nowrap`}>
        {claim.supply_v == null ? none : `${String(claim.supply_v)}\u202fV`}
        {claim.tone_hz != null && <small className="block text-ink2">{claim.tone_hz} Hz</small>}
      </td>
      <td className={`${cell} font-semibold ${addsUp?.weight ? TONES[addsUp.weight] : addsUp?.checked ? "text-verdigris" : "text-ink2"}`}>
        {addsUp?.word}
      </td>
      <td className={`${cell} w-0 whitespace-nowrap`}>
        <button
          type="button"
          aria-label={`Change the claim: ${name}`}
          className="rounded p-1.5 text-ink2 hover:bg-hair hover:text-ink"
          onClick={() => onEdit(row)}
        >
          <Pencil size={16} aria-hidden />
        </button>
        <button
          type="button"
          aria-label={`Remove the claim: ${name}`}
          className="rounded p-1.5 text-ink2 hover:bg-stop-wash hover:text-stop"
          onClick={() => onRemove(row)}
        >
          <Trash2 size={16} aria-hidden />
        </button>
      </td>
    </tr>
  );
}
