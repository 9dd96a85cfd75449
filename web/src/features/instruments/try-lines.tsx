import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { Disclosure } from "@/ui/disclosure";
import { useWrite } from "@/api/queries";

/** Each line of a profile, sent on its own, and the raw reply beside it. */
export function TryLines({ link }: { link: Schemas["LinkView"] }) {
  const [own, setOwn] = useState("");
  return (
    <Disclosure className="mt-2 text-note" says={<b className="font-semibold">Try its lines</b>}>
      <ul className="mt-1 grid">
        {link.lines.map((line) => (
          <TryLine key={line.asks + line.line} role={link.role} asks={line.asks} line={line.line} />
        ))}
        <li className="grid grid-cols-[1fr_auto] items-center gap-2 border-t border-hair py-1.5">
          <input
            aria-label="Your own line"
            placeholder="your own line"
            className="num rounded-md border border-edge bg-field px-2 py-1 text-note"
            value={own}
            onChange={(event) => setOwn(event.target.value)}
          />
        </li>
        {own.trim() !== "" && <TryLine role={link.role} asks="yours" line={own} />}
      </ul>
    </Disclosure>
  );
}

function TryLine({ role, asks, line }: { role: Schemas["Role"]; asks: string; line: string }) {
  const [said, setSaid] = useState<Schemas["RawReply"] | null>(null);
  const attempt = useWrite(() => data(api.POST("/api/instruments/{role}/trials", { params: { path: { role } }, body: { line } })));
  const send = () =>
    attempt.mutate(undefined, {
      onSuccess: setSaid,
      onError: (error) => setSaid({ reply: null, fault: error.message, took_ms: 0 }),
    });
  return (
    <li className="grid items-center gap-x-3 gap-y-0.5 border-t border-hair py-1.5 text-note sm:grid-cols-[110px_1fr_auto]">
      <span className="text-ink2">{asks}</span>
      <span className="num min-w-0 truncate">{line}</span>
      <button type="button" className="rounded px-2 py-0.5 font-semibold hover:bg-hair" disabled={attempt.isPending} onClick={send}>
        Send
      </button>
      {said && (
        <span className={`num sm:col-span-3 ${said.fault != null ? "text-stop" : "text-verdigris"}`}>
          {said.fault ?? said.reply ?? "sent; no reply expected"}
          <span className="ml-2 text-ink2">{said.took_ms.toFixed(1)} ms</span>
        </span>
      )}
    </li>
  );
}
