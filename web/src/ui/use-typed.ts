import { useEffect, useState } from "react";

/** Between two questions to the program while somebody types. */
const PAUSE_MS = 80;

/**
 * A text as it is typed, told a moment later: what it is told to (an address, a question) may take its time, and no key is lost
 * meanwhile. What changes it from outside (Back, Clear) shows at once.
 */
export function useTyped(value: string, tell: (text: string) => void) {
  const [typed, setTyped] = useState(value);
  const [seen, setSeen] = useState(value);
  /** What was told and has not come back yet, the oldest first: it is no change from outside when it does. */
  const [told, setTold] = useState<readonly string[]>([]);
  if (seen !== value) {
    setSeen(value);
    const own = told.indexOf(value);
    setTold(own < 0 ? [] : told.slice(own + 1));
    if (own < 0) setTyped(value);
  }
  const newest = told.at(-1) ?? seen;
  useEffect(() => {
    if (typed === newest) return;
    const timer = setTimeout(() => {
      setTold((before) => [...before, typed]);
      tell(typed);
    }, PAUSE_MS);
    return () => clearTimeout(timer);
  }, [typed, newest, tell]);
  /** At once: what follows is the answer to what stands there now. */
  const tellNow = () => {
    if (typed !== newest) setTold([...told, typed]);
    tell(typed);
  };
  return { typed, setTyped, tellNow };
}
