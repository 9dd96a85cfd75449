import { useEffect, useState } from "react";

/** Between two questions to the program while somebody types. */
const PAUSE_MS = 80;

/**
 * A text as it is typed, told a moment later: what it is told to (an address, a question) may take its time, and no key is lost
 * meanwhile. What changes it from outside (Back, Clear) shows at once.
 */
export function useTyped(value: string, tell: (text: string) => void) {
  const [typed, setTyped] = useState(value);
  const [told, setTold] = useState(value);
  if (told !== value) {
    setTold(value);
    setTyped(value);
  }
  useEffect(() => {
    if (typed === told) return;
    const timer = setTimeout(() => {
      setTold(typed);
      tell(typed);
    }, PAUSE_MS);
    return () => clearTimeout(timer);
  }, [typed, told, tell]);
  /** At once: what follows is the answer to what stands there now. */
  const tellNow = () => {
    setTold(typed);
    tell(typed);
  };
  return { typed, setTyped, tellNow };
}
