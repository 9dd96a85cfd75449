import type { RefObject } from "react";

const KEYS: [word: string, text: string][] = [
  ["space", " "],
  ["+", "+"],
  ["V", "v"],
  ["A", "a"],
  ["%", "%"],
];

/** What a phone's number pad lacks; the last key brings its letters. */
export function TouchKeys({
  input,
  letters,
  setLetters,
}: {
  input: RefObject<HTMLInputElement | null>;
  letters: boolean;
  setLetters: (on: boolean) => void;
}) {
  const put = (text: string) => {
    input.current?.focus({ preventScroll: true });
    // The browser's own way to type: it lands where the caret is, and the line hears of it as of a key.
    document.execCommand("insertText", false, text);
  };
  return (
    <div role="group" aria-label="Keys of the line" className="mt-1.5 hidden grid-cols-6 gap-1.5 pointer-coarse:grid">
      {KEYS.map(([word, text]) => (
        <Key key={word} onPress={() => put(text)}>
          {word}
        </Key>
      ))}
      <Key
        onPress={() => {
          setLetters(!letters);
          input.current?.focus({ preventScroll: true });
        }}
      >
        {letters ? "123" : "abc"}
      </Key>
    </div>
  );
}

function Key({ onPress, children }: { onPress: () => void; children: string }) {
  return (
    <button
      type="button"
      className="num min-h-11 rounded-md border border-edge bg-sheet text-body font-semibold"
      onPointerDown={(event) => event.preventDefault()}
      onClick={onPress}
    >
      {children}
    </button>
  );
}
