import { useSearchParams } from "react-router";

/** Settings of a page that stand in its address: Back, a reload and a bookmark find them again. An empty one is left out. */
export function useAddress() {
  const [params, setParams] = useSearchParams();
  return {
    text: (name: string) => params.get(name) ?? "",
    set: (name: string, value: string) =>
      setParams(
        (before) => {
          const next = new URLSearchParams(before);
          if (value === "") next.delete(name);
          else next.set(name, value);
          return next;
        },
        { replace: true },
      ),
    /** Leaves only these. */
    keep: (names: readonly string[]) =>
      setParams((before) => new URLSearchParams([...before].filter(([name]) => names.includes(name))), { replace: true }),
  };
}
