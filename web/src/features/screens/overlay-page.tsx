import { useEffect } from "react";
import { useSearchParams } from "react-router";
import { useTitle } from "@/ui/use-title";
import { ClaimBar } from "./claim-bar";
import { useScreen } from "./use-screen";

const SIDES: Record<string, string> = { left: "items-end justify-start", right: "items-end justify-end", top: "items-start justify-start" };

/**
 * A panel over a camera's picture, on a clear background, for a video mixer's browser source. The address sets it: `size` times as
 * large, `side` left, right or top, `theme` light or dark.
 */
export function OverlayPage() {
  const screen = useScreen();
  const [params] = useSearchParams();
  const size = Math.min(4, Math.max(0.5, Number(params.get("size")) || 1));
  const dark = params.get("theme") !== "light";
  useTitle(screen?.amplifier, "Live overlay");
  useEffect(() => {
    const { style } = document.documentElement;
    style.background = "transparent";
    document.body.style.background = "transparent";
    return () => {
      style.background = "";
      document.body.style.background = "";
    };
  }, []);
  if (!screen?.place) return null;
  const { rung, cell } = screen.place;
  return (
    <main className={`fixed inset-0 flex p-[3vw] ${SIDES[params.get("side") ?? "left"] ?? "items-end"} ${dark ? "dark" : ""}`}>
      <section
        aria-label={screen.live ? "Live run" : "Last run"}
        className="grid gap-2 rounded-xl bg-sheet/90 px-6 py-4 text-ink"
        style={{ zoom: size }}
      >
        <h1 className="flex items-baseline gap-3 text-xl font-firm">
          <b className="text-3xl font-strong">{rung.label}</b> {rung.words}, {cell.mode}
          {screen.live && <span className="font-semibold text-copper">live</span>}
        </h1>
        <dl className="flex items-end gap-7">
          {screen.figures.map((shown, n) => (
            <div key={shown.name}>
              <dt className="text-sm text-ink2">{shown.name}</dt>
              <dd className={`num font-semibold whitespace-nowrap ${n === 0 ? "text-4xl" : "text-3xl"} ${shown.warn ? "text-stop" : ""}`}>
                {shown.text}
                <span className="ml-1 text-mark font-normal text-ink2">{shown.unit}</span>
              </dd>
            </div>
          ))}
        </dl>
        {screen.ofClaim !== null && <ClaimBar share={screen.ofClaim} claim={rung.claim ?? ""} className="h-3" />}
      </section>
    </main>
  );
}
