import { useLayoutEffect } from "react";
import { keepKeys } from "@/ui/late-keys";
import { Loading } from "@/ui/states";

/** While a page with an entry line is on its way: what is typed meanwhile is kept for the line. */
export function LineLoading() {
  useLayoutEffect(keepKeys, []);
  return <Loading />;
}
