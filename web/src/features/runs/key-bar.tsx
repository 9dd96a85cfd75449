/** The keys of the bench, at its foot. */
export function KeyBar() {
  const keys: [string, string][] = [
    ["Enter", "log it"],
    ["R", "run again"],
    ["S", "set the rung"],
    ["U", "undo"],
    ["O", "tone"],
    ["X", "something went wrong"],
    ["?", "all keys"],
  ];
  return (
    <div className="sticky bottom-0 hidden h-11 items-center gap-5 overflow-hidden border-t border-line bg-sheet px-6 text-[13px] whitespace-nowrap text-ink2 sm:flex">
      {keys.map(([key, what]) => (
        <span key={key}>
          <kbd className="num mr-1 rounded border border-current px-1.5 text-[11.5px] leading-5 font-medium">{key}</kbd>
          {what}
        </span>
      ))}
    </div>
  );
}
