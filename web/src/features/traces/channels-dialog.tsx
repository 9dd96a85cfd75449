import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, wordsOf, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { ChoiceField } from "@/ui/choice";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { readNumber, writeNumber } from "@/ui/numbers";
import { SUBJECTS, unitOf } from "./words";

type Channel = Schemas["TraceChannel"];

interface Row {
  kind: string;
  scale: string;
  output: string;
  meter: string;
  reading: string;
}

const rowOf = (channel: Channel): Row => ({
  kind: channel.kind,
  scale: writeNumber(channel.scale ?? 1),
  output: channel.output ?? "",
  meter: channel.meter ?? "",
  reading: "",
});

/** What each channel is of, and its scale: by the probe, typed in, or by what a meter read over the stretch that is chosen. */
export function ChannelsDialog({
  sessionId,
  sha256,
  view,
  meters,
  span,
  onClose,
}: {
  sessionId: string;
  sha256: string;
  view: Schemas["TraceView"];
  meters: readonly string[];
  /** The stretch that a meter's reading is of. */
  span: { from_s: number; to_s: number } | null;
  onClose: () => void;
}) {
  const { tell } = useNotice();
  const [rows, setRows] = useState(() => view.channels.map(rowOf));
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [found, setFound] = useState<Record<number, string>>({});
  const params = { path: { id: sessionId, sha256 } };
  const save = useWrite(
    (channels: Channel[]) => data(api.PUT("/api/sessions/{id}/traces/{sha256}", { params, body: { name: view.name, channels } })),
    [sessionId],
  );
  const change = (n: number, part: Partial<Row>) => setRows((all) => all.map((row, i) => (i === n ? { ...row, ...part } : row)));
  const byMeter = async (n: number) => {
    const row = rows[n];
    if (!row || !span) return;
    try {
      const reading = readNumber(row.reading) ?? 0;
      const kind = row.kind as Schemas["ChannelKind"];
      const answer = await data(
        api.POST("/api/sessions/{id}/traces/{sha256}/scales", {
          params,
          body: { channel: n, kind, reading, from_s: span.from_s, to_s: span.to_s },
        }),
      );
      change(n, { scale: writeNumber(Number(answer.scale.toPrecision(7))) });
      setFound((all) => ({ ...all, [n]: `The scale that was set is ${(100 * answer.off_ratio).toFixed(1)}\u202f% off the meter.` }));
      setErrors({});
    } catch (why) {
      setErrors({
        [`channels[${String(n)}].reading`]:
          problemsOf(why as Error, "")
            .map((problem) => problem.says)
            .join(" ") || wordsOf(why),
      });
    }
  };
  const submit = () => {
    const wrong: Record<string, string> = {};
    const channels = rows.map((row, n): Channel => {
      let scale = 1;
      try {
        scale = readNumber(row.scale) ?? 1;
      } catch (why) {
        wrong[`channels[${String(n)}].scale`] = (why as Error).message;
      }
      return { kind: row.kind, scale, output: row.output.trim() || null, meter: row.meter || null };
    });
    setErrors(wrong);
    if (Object.keys(wrong).length > 0) return;
    save.mutate(channels, {
      onSuccess: () => {
        tell({ says: "Channels and scales saved.", look: "plain", undo: true });
        onClose();
      },
      onError: (why) => setErrors(Object.fromEntries(problemsOf(why, "").map((problem) => [problem.path, problem.says]))),
    });
  };
  const perUnit = view.form === "csv" ? "per unit of the file" : "at full scale";
  return (
    <Dialog open onClose={onClose} title="Channels and scales" width="max-w-[820px]">
      <Form className="grid gap-4" onSubmit={submit}>
        {rows.map((row, n) => {
          const path = `channels[${String(n)}]`;
          return (
            <fieldset key={n} className="border-t border-hair pt-3">
              <legend className="sr-only">Channel {n + 1}</legend>
              <p aria-hidden className="mb-1.5 font-semibold">
                Channel {n + 1}
              </p>
              <div className="grid gap-2 sm:grid-cols-[150px_110px_150px_minmax(0,1fr)]">
                <ChoiceField label="It is" options={SUBJECTS} value={row.kind} onChoose={(kind) => change(n, { kind })} />
                <TextField
                  label="Output"
                  hint="its name, if there are several"
                  disabled={row.kind !== "output"}
                  value={row.output}
                  error={errors[`${path}.output`]}
                  onChange={(event) => change(n, { output: event.target.value })}
                />
                <div>
                  <TextField
                    label={`${unitOf(row.kind) === "A" ? "Amps" : "Volts"} ${perUnit}`}
                    inputMode="decimal"
                    value={row.scale}
                    error={errors[`${path}.scale`]}
                    onChange={(event) => change(n, { scale: event.target.value, meter: "" })}
                  />
                  <span className="mt-1 flex gap-1">
                    {[10, 100].map((probe) => (
                      <Button
                        key={probe}
                        size="compact"
                        onClick={() => change(n, { scale: writeNumber((readNumber(row.scale) ?? 1) * probe), meter: "" })}
                      >
                        probe ×{String(probe)}
                      </Button>
                    ))}
                  </span>
                </div>
                <div className="grid content-start gap-1">
                  <span className="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)_auto] items-end gap-2">
                    <TextField
                      label="A meter read"
                      unit={unitOf(row.kind)}
                      inputMode="decimal"
                      value={row.reading}
                      error={errors[`${path}.reading`]}
                      onChange={(event) => change(n, { reading: event.target.value })}
                    />
                    <ChoiceField
                      label="Which meter"
                      options={[["", "not named"], ...meters.map((meter) => [meter, meter] as const)]}
                      value={row.meter}
                      onChoose={(meter) => change(n, { meter })}
                    />
                    <Button size="low" disabled={!span || row.reading === ""} onClick={() => void byMeter(n)}>
                      Set
                    </Button>
                  </span>
                  <span className="text-sm text-ink2">
                    {found[n] ?? (span ? "over the stretch that is chosen" : "choose a stretch first")}
                  </span>
                </div>
              </div>
            </fieldset>
          );
        })}
        {errors[""] && (
          <p role="alert" className="text-stop">
            {errors[""]}
          </p>
        )}
        <p className="text-sm text-ink2">The next recording with as many channels on this bench starts with these.</p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={save.isPending}>
            Save
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
