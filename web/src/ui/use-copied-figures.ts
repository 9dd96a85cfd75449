import { useEffect } from "react";
import { plainFigures } from "./copied";

/** What is copied from a page pastes as figures; a field's own text is left to the browser. */
export function useCopiedFigures() {
  useEffect(() => {
    const onCopy = (event: ClipboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return;
      const text = getSelection()?.toString() ?? "";
      const plain = plainFigures(text);
      if (text === "" || plain === text || !event.clipboardData) return;
      event.clipboardData.setData("text/plain", plain);
      event.preventDefault();
    };
    addEventListener("copy", onCopy);
    return () => removeEventListener("copy", onCopy);
  }, []);
}
