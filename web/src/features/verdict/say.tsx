import type { Schemas } from "@/api/client";

const STRESS: Record<Schemas["Stress"], string> = {
  plain: "",
  proved: "text-verdigris",
  doubt: "text-ochre",
  failed: "text-stop",
};

/** The verdict in a sentence, and what it stands on. */
export function Say({ view }: { view: Schemas["VerdictView"] }) {
  const length = view.heading.reduce((n, phrase) => n + phrase.text.length, 0);
  return (
    <>
      <p className="mb-1.5 flex flex-wrap items-center gap-x-2.5 text-step text-ink2">
        <b className="rounded bg-ink px-2 py-0.5 font-bold text-paper">{view.overall_word}</b>
        <span>
          {view.tested}
          {view.provisional && ", provisional"}
        </span>
      </p>
      <h2
        className={`wide max-w-[800px] leading-[1.18] font-bold tracking-[-0.01em] print:text-xl ${length > 110 ? "text-figure" : "text-3xl"}`}
      >
        <Phrases phrases={view.heading} />
      </h2>
      {view.phrases.length > 0 && (
        <p className="mt-1.5 max-w-[760px] text-body leading-[1.42]">
          <Phrases phrases={view.phrases} />
        </p>
      )}
      {view.to_know && <p className="mt-2 max-w-[760px] text-body leading-[1.42]">{view.to_know}</p>}
      {view.basis && <p className="mt-2 max-w-[760px] text-body text-ink2">{view.basis}</p>}
    </>
  );
}

function Phrases({ phrases }: { phrases: Schemas["Phrase"][] }) {
  return phrases.map((phrase, i) => (
    <span key={i} className={STRESS[phrase.stress]}>
      {phrase.text}
    </span>
  ));
}
