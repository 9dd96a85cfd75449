import { useEffect } from "react";

/** Whether a key press belongs to what is being typed. */
export function isTyping(event: KeyboardEvent): boolean {
  const target = event.target;
  if (target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement) return true;
  return target instanceof HTMLInputElement && target.type !== "checkbox" && target.dataset.keysWhenEmpty === undefined;
}

/** Whether the press is on a line that takes keys only while it is empty, and it is not. */
export function lineHasText(event: KeyboardEvent): boolean {
  return event.target instanceof HTMLInputElement && event.target.value !== "";
}

/** Keys of a page: they work when nothing is being typed and no dialog is open. */
export function useKeys(keys: Record<string, (event: KeyboardEvent) => void>) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event) || lineHasText(event)) return;
      if (document.querySelector('[role="dialog"]')) return;
      const act = keys[event.key];
      if (!act) return;
      event.preventDefault();
      act(event);
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [keys]);
}
