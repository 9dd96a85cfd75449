import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { ChoiceField } from "@/ui/choice";
import { Figure } from "@/ui/figure";
import { problemsOf } from "@/ui/form-errors";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { Segments } from "@/ui/segments";
import { useKeys } from "@/ui/use-keys";
import { useCapturedPreview } from "./use-traces";

type Mode = Schemas["Mode"];

const MODES: readonly (readonly [Mode, string])[] = [
  ["certified", "certified"],
  ["clipping", "clipping"],
  ["dynamic", "dynamic"],
];

/** The chosen stretch as a run: which place, which mode, what it would be, and Enter logs it. */
export function LogPart({
  sessionId,
  sha256,
  cut,
  rungs,
  rung,
  setRung,
  mode,
  setMode,
}: {
  sessionId: string;
  sha256: string;
  cut: Schemas["CutView"];
  rungs: readonly Schemas["LadderRung"][];
  rung: string;
  setRung: (key: string) => void;
  mode: Mode;
  setMode: (mode: Mode) => void;
}) {
  const { tell } = useNotice();
  const [second, setSecond] = useState("");
  const wanted: Schemas["CapturedToLog"] = { cut, rung, mode };
  const preview = useCapturedPreview(sessionId, sha256, rung === "" ? null : wanted).data;
  const typed = preview?.typed ?? [];
  const second_of = typed.some((run) => run.id === second) ? second : null;
  const log = useWrite(
    () =>
      data(
        api.POST("/api/sessions/{id}/traces/{sha256}/runs", {
          params: { path: { id: sessionId, sha256 } },
          body: { ...wanted, second_of },
        }),
      ),
    [sessionId],
  );
  const submit = () => {
    if (!preview || preview.unfit != null || log.isPending) return;
    log.mutate(undefined, {
      onSuccess: (run) =>
        tell({ says: `${second_of ? "A second meter of" : "Logged"} ${run.place}: ${run.line}.`, look: "plain", undo: true }),
      onError: (why) =>
        tell({
          says: problemsOf(why, "")
            .map((problem) => problem.says)
            .join(" "),
          look: "stop",
        }),
    });
  };
  useKeys({ Enter: submit });
  if (rungs.length === 0) return <p className="text-step text-ink2">Plan a load first: a run belongs to one.</p>;
  const place = rungs.find((one) => one.key === rung);
  return (
    <section aria-label="Log it" className="grid gap-2.5">
      <ChoiceField
        label="Log it at"
        options={rungs.map((one) => [one.key, `${one.label} · ${one.words}`] as const)}
        value={rung}
        onChoose={setRung}
      />
      <Segments label="Mode" options={MODES} value={mode} onChoose={setMode} />
      {preview?.unfit != null ? (
        <p className="rounded bg-ochre-wash px-3 py-2 text-step">{preview.unfit}</p>
      ) : (
        preview?.power && (
          <p className="flex items-baseline justify-between gap-3">
            <span className="text-ink2">{preview.line}</span>
            <Figure figure={preview.power} plusMinus className="text-xl font-semibold" />
          </p>
        )
      )}
      {preview?.unfit == null && typed.length > 0 && (
        <ChoiceField
          label="As"
          options={[["", "a run of its own"], ...typed.map((run) => [run.id, `a second meter of ${run.line}`] as const)]}
          value={second_of ?? ""}
          onChoose={setSecond}
        />
      )}
      <Button look="main" className="justify-center" disabled={!preview || preview.unfit != null || log.isPending} onClick={submit}>
        Log as {place?.label ?? ""}, {mode} <Kbd>Enter</Kbd>
      </Button>
    </section>
  );
}
