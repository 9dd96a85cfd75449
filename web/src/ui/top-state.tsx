import { createContext, use, useLayoutEffect, useMemo, useState, type ReactNode } from "react";

interface TopState {
  words: string | null;
  say: (words: string | null) => void;
}

const Context = createContext<TopState>({ words: null, say: () => undefined });

/** What a page says of itself at the right of the top of every page. */
export function TopStateProvider({ children }: { children: ReactNode }) {
  const [words, say] = useState<string | null>(null);
  return <Context value={useMemo(() => ({ words, say }), [words])}>{children}</Context>;
}

/** Says it for as long as the page is shown. */
export function useTopState(words: string) {
  const { say } = use(Context);
  useLayoutEffect(() => {
    say(words);
    return () => say(null);
  }, [say, words]);
}

export function TopStateWords() {
  const { words } = use(Context);
  return <span className="hidden md:inline">{words}</span>;
}
