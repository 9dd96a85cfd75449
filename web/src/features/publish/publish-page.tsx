import { Download } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { queries } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { Segments } from "@/ui/segments";
import { Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { useAmplifierInHand } from "../amplifier-layout";
import { CardPart } from "./card-part";
import { addressOf, type Looks, SHAPES, type Shape, type Theme, THEMES } from "./looks";
import { SignatureDialog, useSignature } from "./signature-dialog";
import { Words } from "./words";

/** What goes out: cards for video, words for a description, the sheet, open data. */
export function PublishPage() {
  const { id, session_id: sessionId } = useAmplifierInHand();
  const [shape, setShape] = useState<Shape>("16x9");
  const [theme, setTheme] = useState<Theme>("light");
  const [chosen, setChosen] = useState(0);
  const [signing, setSigning] = useState(false);
  const signature = useSignature();
  const looks: Looks = { shape, theme };
  const { data, error, refetch } = queries.useQuery("get", "/api/sessions/{id}/publication", {
    params: { path: { id: sessionId }, query: looks },
  });
  const cards = data?.cards ?? [];
  const at = Math.min(chosen, Math.max(cards.length - 1, 0));
  const move = (by: number) => setChosen(Math.max(0, Math.min(cards.length - 1, at + by)));
  const navigate = useNavigate();
  const sheet = `/amplifiers/${id}/publish/sheet`;
  useKeys({ ArrowDown: () => move(1), ArrowUp: () => move(-1), s: () => void navigate(sheet) });
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!data) return <Loading />;
  const card = cards[at];
  return (
    <main className="mx-auto grid w-full max-w-[1480px] min-w-0 items-start gap-6 px-5 py-5 lg:grid-cols-[216px_minmax(0,1fr)_340px]">
      <nav aria-label="What goes out" className="grid min-w-0 content-start gap-4 lg:sticky lg:top-4">
        <h2 className="px-2.5 text-lg font-firm">What goes out</h2>
        <ul className="grid max-h-[56vh] gap-0.5 overflow-y-auto max-lg:max-h-44">
          {cards.map((one, n) => (
            <li key={one.name}>
              <button
                type="button"
                aria-current={n === at ? "true" : undefined}
                className="w-full rounded-md border-l-[3px] border-transparent px-2.5 py-1.5 text-left hover:bg-hair aria-[current=true]:border-copper aria-[current=true]:bg-sheet aria-[current=true]:font-semibold"
                onClick={() => setChosen(n)}
              >
                {one.title}
              </button>
            </li>
          ))}
        </ul>
        <div className="grid gap-2 border-t border-line pt-3">
          <Link className={buttonClass()} to={sheet}>
            Result sheet <Kbd>S</Kbd>
          </Link>
          <a className={buttonClass("main")} href={addressOf(sessionId, "publication.zip", looks)} download>
            <Download size={16} aria-hidden /> Everything, as a zip
          </a>
          <Button onClick={() => setSigning(true)}>Your name and mark</Button>
          {signing && signature && <SignatureDialog key={signature.revision} signature={signature} onClose={() => setSigning(false)} />}
          <div className="grid gap-1 pt-1">
            <a className="underline underline-offset-4" href={`/screens/${id}/overlay`} target="_blank" rel="noreferrer">
              Live overlay, for a video mixer
            </a>
            <a className="underline underline-offset-4" href={`/screens/${id}/wall`} target="_blank" rel="noreferrer">
              Wall, for a second screen
            </a>
          </div>
          <p className="text-note text-ink2">Cards, sheet, description, chapters, subtitles, CSV and JSON. Private fields are left out.</p>
        </div>
      </nav>
      <section aria-label="Card" className="grid min-w-0 gap-3">
        <div className="flex flex-wrap justify-between gap-3">
          <Segments label="Shape" options={SHAPES} value={shape} onChoose={setShape} />
          <Segments label="Background" options={THEMES} value={theme} onChoose={setTheme} />
        </div>
        {card && <CardPart sessionId={sessionId} card={card} looks={looks} />}
      </section>
      <Words publication={data} sessionId={sessionId} />
    </main>
  );
}
