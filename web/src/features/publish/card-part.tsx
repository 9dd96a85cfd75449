import { Copy, Download } from "lucide-react";
import type { Schemas } from "@/api/client";
import { Button, buttonClass } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import { addressOf, type Looks, SIZES } from "./looks";

/** A card as it will look, and the files of it. */
export function CardPart({ sessionId, card, looks }: { sessionId: string; card: Schemas["CardView"]; looks: Looks }) {
  const { tell } = useNotice();
  const size = SIZES[looks.shape ?? "16x9"];
  const file = (ending: string, lines?: 2160) =>
    addressOf(sessionId, `cards/${card.name}.${ending}`, { ...looks, ...(lines ? { lines } : {}), drawing: card.drawing });
  const copy = () => {
    // The promise is handed over at once: a browser lets a page write only right behind a key or a click.
    const picture = fetch(file("png")).then((answer) => answer.blob());
    navigator.clipboard
      .write([new ClipboardItem({ "image/png": picture })])
      .then(() => tell({ says: "The picture was copied.", look: "plain" }))
      .catch(() => tell({ says: "This browser does not let pictures be copied here: save the PNG instead.", look: "stop" }));
  };
  useKeys({ c: copy });
  return (
    <>
      <div
        className={`grid place-items-center rounded-lg border border-line p-3 ${looks.theme === "clear" ? "bg-[repeating-conic-gradient(var(--color-hair)_0_25%,var(--color-sheet)_0_50%)] bg-[length:24px_24px]" : "bg-sheet"}`}
      >
        <img
          src={file("png")}
          alt={card.alt}
          width={size[0]}
          height={size[1]}
          className="h-auto max-h-[62vh] w-auto max-w-full border border-hair"
        />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <a className={buttonClass("main")} href={file("png")} download={`${card.name}.png`}>
          <Download size={16} aria-hidden /> PNG, 1080 lines
        </a>
        <a className={buttonClass()} href={file("png", 2160)} download={`${card.name}-2160.png`}>
          PNG, 2160 lines
        </a>
        <a className={buttonClass()} href={file("svg")} download={`${card.name}.svg`}>
          SVG
        </a>
        <Button onClick={copy}>
          <Copy size={16} aria-hidden /> Copy the picture <Kbd>C</Kbd>
        </Button>
      </div>
      <p className="text-note text-ink2">
        <b className="font-semibold">Alt text:</b> {card.alt}
      </p>
    </>
  );
}
