import { Trash2 } from "lucide-react";
import { Form } from "@/ui/form";
import { useState } from "react";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { day } from "@/ui/dates";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { newId } from "@/ui/ids";
import { useNotice } from "@/ui/notice";
import { readNumber, writeNumber } from "@/ui/numbers";

interface Row {
  id: string;
  currency: string;
  on: string;
  rate: string;
}

/** Rates of exchange, each with its day. Nothing is fetched: what stands here is what prices are brought together by. */
export function MoneyDialog({ money, missing, onClose }: { money: Schemas["MoneyView"]; missing: readonly string[]; onClose: () => void }) {
  const { tell } = useNotice();
  const [base, setBase] = useState(money.base);
  const [rows, setRows] = useState<Row[]>(() => [
    ...money.rates.map((rate) => ({ id: newId(), currency: rate.currency, on: rate.on, rate: writeNumber(rate.rate) })),
    ...missing.map((currency) => ({ id: newId(), currency, on: day(new Date()), rate: "" })),
  ]);
  const [problems, setProblems] = useState<readonly { path: string; says: string }[]>([]);
  const save = useWrite((body: Schemas["MoneyToKeep"]) =>
    data(api.PUT("/api/money", { params: { header: atRevision(money.revision) }, body })),
  );
  const change = (id: string, to: Partial<Row>) => setRows(rows.map((row) => (row.id === id ? { ...row, ...to } : row)));
  const error = (path: string) => problems.find((problem) => problem.path === path)?.says;
  const submit = () => {
    const found: { path: string; says: string }[] = [];
    const rates = rows.map((row, i) => {
      let rate = 0;
      try {
        rate = readNumber(row.rate) ?? 0;
      } catch (why) {
        found.push({ path: `rates[${String(i)}].rate`, says: (why as Error).message });
      }
      return { currency: row.currency.trim().toUpperCase(), on: row.on, rate };
    });
    if (found.length > 0) return setProblems(found);
    save.mutate(
      { base: base.trim().toUpperCase(), rates },
      {
        onSuccess: () => {
          tell({ says: "Rates saved.", look: "plain" });
          onClose();
        },
        onError: (why) => setProblems(problemsOf(why, "")),
      },
    );
  };
  return (
    <Dialog open onClose={onClose} title="Currencies" width="max-w-[620px]">
      <Form className="grid gap-3" onSubmit={submit}>
        <TextField
          className="max-w-64"
          label="Prices are brought to"
          hint="three letters: GBP, EUR"
          value={base}
          error={error("base")}
          onChange={(event) => setBase(event.target.value)}
        />
        <ul className="grid gap-2">
          {rows.map((row, i) => (
            <li key={row.id} className="grid grid-cols-[90px_150px_minmax(0,1fr)_auto] items-end gap-2">
              <TextField
                label="1 of"
                value={row.currency}
                error={error(`rates[${String(i)}].currency`)}
                onChange={(event) => change(row.id, { currency: event.target.value })}
              />
              <TextField label="on" type="date" value={row.on} onChange={(event) => change(row.id, { on: event.target.value })} />
              <TextField
                label={`is worth, in ${base || "the base"}`}
                inputMode="decimal"
                value={row.rate}
                error={error(`rates[${String(i)}].rate`)}
                onChange={(event) => change(row.id, { rate: event.target.value })}
              />
              <button
                type="button"
                aria-label={`Remove the rate of ${row.currency}`}
                className="mb-1 rounded p-2 text-ink2 hover:bg-stop-wash hover:text-stop"
                onClick={() => setRows(rows.filter((one) => one.id !== row.id))}
              >
                <Trash2 size={15} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
        {error("") && (
          <p role="alert" className="text-stop">
            {error("")}
          </p>
        )}
        <div className="flex flex-wrap justify-end gap-2">
          <Button className="mr-auto" onClick={() => setRows([...rows, { id: newId(), currency: "", on: day(new Date()), rate: "" }])}>
            Add a rate
          </Button>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={save.isPending}>
            Save
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
