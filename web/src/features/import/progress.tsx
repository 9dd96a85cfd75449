import { queries } from "@/api/queries";

/** How far an import is, for as long as it is shown. */
export function Progress() {
  const { data: view } = queries.useQuery("get", "/api/imports/progress", {}, { refetchInterval: 400, gcTime: 0 });
  const at = view?.importing;
  if (!at || at.total < 2) return <p>Importing…</p>;
  return (
    <div className="grid max-w-[460px] gap-1">
      <p>
        Importing <span className="num">{at.done + 1}</span> of <span className="num">{at.total}</span>: {at.name}
      </p>
      <div
        role="progressbar"
        aria-label="Imported"
        aria-valuenow={at.done}
        aria-valuemin={0}
        aria-valuemax={at.total}
        className="h-2 overflow-hidden rounded-xs bg-hair"
      >
        <div className="h-full bg-verdigris" style={{ width: `${String((100 * at.done) / at.total)}%` }} />
      </div>
    </div>
  );
}
