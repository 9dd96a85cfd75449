import { useEffect } from "react";

/** What the window, and a PDF that is printed from it, is called: the particular first. */
export function useTitle(...parts: (string | undefined)[]) {
  const title = [parts.filter(Boolean).join(" – "), "Pukka"].filter(Boolean).join(" · ");
  useEffect(() => {
    document.title = title;
  }, [title]);
}
