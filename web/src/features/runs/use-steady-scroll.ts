import { useCallback, useEffect, useRef } from "react";

/**
 * Keeps a page as tall as it is scrolled to: when a run starts or ends and parts of it come and go, what is looked at stays where
 * it is. Returns the ref of the part that gets the height.
 */
export function useSteadyScroll() {
  const box = useRef<HTMLDivElement | null>(null);
  const hold = useCallback(() => {
    const at = box.current;
    if (!at) return;
    const bottom = scrollY + innerHeight - (at.getBoundingClientRect().top + scrollY);
    at.style.minHeight = scrollY > 0 ? `${String(Math.ceil(bottom))}px` : "";
  }, []);
  useEffect(() => {
    addEventListener("scroll", hold, { passive: true });
    return () => removeEventListener("scroll", hold);
  }, [hold]);
  return box;
}
