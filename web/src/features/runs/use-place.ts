import { useEffect, useState } from "react";
import { useSearchParams } from "react-router";
import { cellAt, MODES, type Ladder, type Place } from "../ladder/place";

/** Where on the ladder we are: kept in the address too, so that a reload comes back to it. */
export function usePlace(ladder: Ladder): [Place, (step: (from: Place) => Place | null) => void] {
  const [search, setSearch] = useSearchParams();
  const [chosen, setChosen] = useState<Place | null>(() => {
    const rung = search.get("rung");
    const mode = MODES.find((known) => known === search.get("mode"));
    return rung !== null && mode ? { rung, mode } : null;
  });
  const first: Place = { rung: ladder.rungs[0]?.key ?? "", mode: "certified" };
  const sound = (place: Place | null) => (place && cellAt(ladder, place) ? place : null) ?? ladder.next ?? first;
  const place = sound(chosen);
  const { rung, mode } = place;
  useEffect(() => setSearch({ rung, mode }, { replace: true, preventScrollReset: true }), [rung, mode, setSearch]);
  // Keys may come faster than the page is drawn: each starts from where the last one went.
  return [place, (step) => setChosen((from) => step(sound(from)) ?? from)];
}
