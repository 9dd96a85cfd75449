/** Opens and closes what stands behind a line, in the line itself. */
export function More({ opened, words, onToggle }: { opened: boolean; words: string; onToggle: () => void }) {
  return (
    <button type="button" aria-expanded={opened} className="rounded underline underline-offset-3 hover:bg-hair" onClick={onToggle}>
      {opened ? "close" : words}
    </button>
  );
}
