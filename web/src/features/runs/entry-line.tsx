import { useRef, useState, type KeyboardEvent, type RefObject } from "react";
import type { Schemas } from "@/api/client";
import { lineAhead } from "./key-ahead";
import { TouchKeys } from "./touch-keys";
import type { Press } from "./use-line";

type Segment = Schemas["Segment"];

const MARKS: Record<Segment["kind"], string> = {
  gap: "",
  reading: "",
  note: "",
  pending: "border-b-2 border-dashed border-ink3",
  unclear: "border-b-[3px] border-double border-ochre",
  wrong: "border-b-[3px] border-stop",
};

const FONT =
  "num text-4xl leading-[44px] font-medium max-sm:text-3xl sm:low:text-3xl sm:low:leading-[36px] metre:text-metre metre:leading-[1.2]";

/** The entry line: what the meters say, marked in place as it is typed. */
export function EntryLine({
  line,
  segments,
  outputs,
  mode,
  input,
  closed,
  onAhead,
  onChange,
  onEnter,
}: {
  line: string;
  /** The line piece by piece, when it was read already; the marks wait for the pieces of this very line. */
  segments: Segment[];
  outputs: number;
  mode: string;
  input: RefObject<HTMLInputElement | null>;
  /** Why nothing can be logged now: what is typed is kept all the same. */
  closed: string | null;
  /** The line as a key will leave it, a moment before it does. */
  onAhead: (line: string) => void;
  onChange: (line: string) => void;
  /** Returns whether the press was the line's own. */
  onEnter: (press: Press) => boolean;
}) {
  const [letters, setLetters] = useState(false);
  const under = useRef<HTMLDivElement>(null);
  const fits = segments.map((segment) => segment.text).join("") === line;
  const follow = () => {
    if (under.current && input.current) under.current.scrollLeft = input.current.scrollLeft;
  };
  const onKeyDown = (event: KeyboardEvent<HTMLInputElement>) => {
    const { isComposing } = event.nativeEvent;
    if (event.key === "Enter" && !isComposing && onEnter(event)) event.preventDefault();
    const ahead = isComposing ? null : lineAhead(event, event.currentTarget);
    if (ahead !== null) onAhead(ahead);
  };
  return (
    <div
      data-line
      className={`mt-2 rounded-lg border-2 px-4 pt-2 pb-1.5 ${closed === null ? "border-copper bg-field" : "border-dashed border-line"}`}
    >
      <div className="flex justify-between gap-3 text-sm whitespace-nowrap text-ink2">
        <label htmlFor="entry-line" className="min-w-0 truncate">
          {closed === null ? "Type what the meters say: watts, volts, amps" : closed}
        </label>
        {closed === null && outputs > 1 && <span className="max-sm:hidden">{outputs} outputs, each with a +</span>}
      </div>
      <div className="relative mt-0.5">
        <div ref={under} aria-hidden className={`absolute inset-0 overflow-hidden whitespace-pre text-transparent ${FONT}`}>
          {fits &&
            segments.map((segment, i) => (
              <span key={i} className={MARKS[segment.kind]}>
                {segment.text}
              </span>
            ))}
        </div>
        <input
          id="entry-line"
          ref={input}
          value={line}
          autoComplete="off"
          autoCorrect="off"
          spellCheck={false}
          enterKeyHint="done"
          inputMode={letters ? "text" : "decimal"}
          maxLength={600}
          aria-describedby="understood"
          aria-invalid={fits && segments.some((segment) => segment.kind === "wrong") ? true : undefined}
          placeholder={closed !== null ? "" : mode === "dynamic" ? "watts  volts" : "watts  volts  amps"}
          className={`relative w-full bg-transparent caret-copper outline-none placeholder:text-ink3/60 ${FONT}`}
          onChange={(event) => onChange(event.target.value)}
          onScroll={follow}
          onKeyUp={follow}
          onKeyDown={onKeyDown}
        />
      </div>
      <TouchKeys input={input} letters={letters} setLetters={setLetters} />
    </div>
  );
}
