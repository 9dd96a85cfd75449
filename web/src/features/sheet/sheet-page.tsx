import { Download, FileJson, Printer } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { Button, buttonClass } from "@/ui/button";
import { useAmplifierInHand } from "../amplifier-layout";

/** The result sheet as it is printed and shared, and everything there is to take away. */
export function SheetPage() {
  const { id, session_id: sessionId, amplifier, summary } = useAmplifierInHand();
  const frame = useRef<HTMLIFrameElement>(null);
  const [height, setHeight] = useState(900);
  const page = `/api/sessions/${sessionId}/sheet.html`;
  const name = `${amplifier.make} ${amplifier.model}`;
  // The frame is as tall as what is in it: one scroll bar, the page's own.
  const measure = () => setHeight((frame.current?.contentDocument?.documentElement.scrollHeight ?? 900) + 4);
  return (
    <main className="mx-auto w-full max-w-[960px] min-w-0 px-5 py-5">
      <Link className="text-note text-ink2 underline underline-offset-3" to="../publish" relative="path">
        All that goes out
      </Link>
      <h1 className="wide text-2xl font-strong">The result sheet</h1>
      <div className="mt-3 mb-4 flex flex-wrap items-center gap-2">
        <Button look="main" onClick={() => frame.current?.contentWindow?.print()}>
          <Printer size={16} aria-hidden /> Print the sheet
        </Button>
        <a className={buttonClass()} href={page} download={`${name} result sheet.html`}>
          <Download size={16} aria-hidden /> HTML
        </a>
        <a className={buttonClass()} href={`/api/sessions/${sessionId}/sheet.csv`} download>
          <Download size={16} aria-hidden /> CSV
        </a>
        <a className={buttonClass()} href={`/api/sessions/${sessionId}/sheet`} download={`${name} result sheet.json`}>
          <Download size={16} aria-hidden /> JSON
        </a>
        <a className={buttonClass()} href={`/api/amplifiers/${id}/file?kind=shared`} download>
          <FileJson size={16} aria-hidden /> Session file for sharing
        </a>
        <a className={buttonClass()} href={`/api/amplifiers/${id}/file?kind=full`} download>
          <FileJson size={16} aria-hidden /> Full session file
        </a>
        <p className="basis-full text-sm text-ink2">
          The sheet is one file that opens anywhere, without a network. The session file holds every reading: anyone can judge it again, and
          another Pukka takes it in. The one to share names nobody: not who opened a gate, agreed, pays, lent it or logged a run; the full
          one is for yourself. As it stands now, {summary.verdict_word}; a run or a claim more changes it.
        </p>
      </div>
      <iframe
        ref={frame}
        src={page}
        title={`Result sheet of ${name}`}
        sandbox="allow-same-origin allow-modals"
        className="w-full rounded-lg border border-line bg-white"
        style={{ height }}
        onLoad={measure}
      />
    </main>
  );
}
