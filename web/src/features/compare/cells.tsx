import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** The power of a place: one figure, or the two ends of a band. */
export function CellPower({ cell }: { cell: Schemas["CompareCell"] }) {
  return (
    <>
      <Figure figure={cell.power} unit={cell.high == null} plusMinus={cell.high == null} />
      {cell.high != null && (
        <>
          {" to "}
          <Figure figure={cell.high} plusMinus />
        </>
      )}
    </>
  );
}

/** What is known of each: a figure with its working, or words. */
export function FactCells({ fact, heads }: { fact: Schemas["CompareFact"]; heads: readonly Schemas["CompareHead"][] }) {
  return fact.says.map((says, n) => {
    const figure = fact.figures[n];
    return (
      <td key={heads[n]?.id} className="px-1.5 py-1">
        {figure ? <Figure figure={figure} /> : (says ?? <span className="text-ink2">not known</span>)}
      </td>
    );
  });
}
