import { type ReactNode, useState } from "react";
import { Form } from "@/ui/form";
import { api, data, Refusal, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { day, moment } from "@/ui/dates";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { Failed, Loading } from "@/ui/states";

type View = Schemas["UpkeepView"];

const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(1)}\u202fMB`;
const counted = (n: number, what: string) => `${String(n)} ${what}${n === 1 ? "" : "s"}`;

/** Copies of the records: what there is, a file of everything, a second folder. */
export function BackupsPage() {
  const { data: view, error, refetch } = queries.useQuery("get", "/api/upkeep");
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!view) return <Loading />;
  return (
    <main className="mx-auto w-full max-w-[1180px] px-4 py-6 sm:px-8">
      <h1 className="wide text-3xl font-bold">Backups</h1>
      <p className="mt-1 max-w-[760px] text-ink2">
        Records and photos are in <span className="num break-all">{view.folder}</span>. Pukka copies them once a day while it runs, and
        keeps 7 daily, 8 weekly and 12 monthly copies.
      </p>
      <Troubles view={view} />
      <div className="mt-5 grid items-start gap-6 lg:grid-cols-[minmax(0,1fr)_400px]">
        <Copies view={view} />
        <div className="grid gap-6">
          <Everything />
          <Second view={view} />
          <Checked view={view} />
        </div>
      </div>
    </main>
  );
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="border-t-2 border-line pt-3">
      <h2 className="text-lg font-firm">{title}</h2>
      {children}
    </section>
  );
}

function Troubles({ view }: { view: View }) {
  const says = [
    ...view.damage.map((line) => `The database is damaged: ${line}`),
    ...(view.trouble === null || view.trouble === undefined ? [] : [`The last copy failed: ${view.trouble}`]),
    ...(view.second_trouble === null || view.second_trouble === undefined
      ? []
      : [`The last copy into the second folder failed: ${view.second_trouble}`]),
  ];
  if (says.length === 0) return null;
  return (
    <ul role="alert" className="mt-4 grid gap-1 rounded-md bg-stop-wash px-3 py-2">
      {says.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}

/** Dated copies, the newest first: how the last one stands is what counts. */
function Copies({ view }: { view: View }) {
  const { tell } = useNotice();
  const now = useWrite(() => data(api.POST("/api/upkeep/copies")));
  const make = () => {
    const before = view.copies[0]?.at;
    now.mutate(undefined, {
      onSuccess: ({ copies }) =>
        tell({ says: copies[0]?.at === before ? "Nothing has changed since the last copy." : "A copy was made.", look: "plain" }),
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  };
  return (
    <Part title="Dated copies">
      <div className="mt-2 flex flex-wrap items-center gap-3">
        <Button look="main" disabled={now.isPending || view.damage.length > 0} onClick={make}>
          {now.isPending ? "Copying…" : "Copy now"}
        </Button>
        <p className="text-ink2">{view.copies[0] ? `Last copy ${moment(view.copies[0].at)}` : "No copy yet: the first is made soon."}</p>
      </div>
      {view.copies.length > 0 && (
        <>
          <table className="mt-4 w-full text-step">
            <thead className="text-left text-note text-ink2">
              <tr className="border-b border-line">
                <th className="py-1.5 font-medium">Made</th>
                <th className="py-1.5 text-right font-medium">Amplifiers</th>
                <th className="py-1.5 text-right font-medium">Photos</th>
                <th className="py-1.5 text-right font-medium">Records</th>
              </tr>
            </thead>
            <tbody>
              {view.copies.map((copy) => (
                <tr key={copy.at} className="border-b border-hair">
                  <td className="num py-1.5">{moment(copy.at)}</td>
                  <td className="num py-1.5 text-right">{copy.amplifiers}</td>
                  <td className="num py-1.5 text-right">{copy.photos}</td>
                  <td className="num py-1.5 text-right">{megabytes(copy.bytes)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-4 text-ink2">To go back to one, stop Pukka and run this. What is there now is kept beside it.</p>
          <code className="num mt-1 block rounded-md border border-line bg-sheet px-3 py-2 text-note break-all">
            pukka restore {view.copies[0]?.file} --data {view.folder}
          </code>
        </>
      )}
    </Part>
  );
}

function Everything() {
  return (
    <Part title="One file">
      <p className="mt-1 text-ink2">All records and photos, to keep elsewhere or move to another machine.</p>
      <a className={buttonClass("plain", "usual", "mt-2")} href="/api/backup.zip" download>
        Download a backup
      </a>
    </Part>
  );
}

function Second({ view }: { view: View }) {
  const { tell } = useNotice();
  const known = view.second_folder ?? "";
  const [folder, setFolder] = useState(known);
  const [wrong, setWrong] = useState<string | undefined>();
  const set = useWrite((second_folder: string | null) => data(api.PUT("/api/upkeep", { body: { second_folder } })));
  const save = () => {
    setWrong(undefined);
    set.mutate(folder.trim() === "" ? null : folder.trim(), {
      onSuccess: (now) => tell({ says: now.second_folder ? "A copy was made there." : "The second folder was removed.", look: "plain" }),
      onError: (error) => setWrong(error instanceof Refusal ? error.message : "It could not be saved."),
    });
  };
  return (
    <Part title="Second folder">
      <p className="mt-1 text-ink2">A folder on another disk survives the loss of this one. Each copy is made there as well.</p>
      {view.can_set ? (
        <Form className="mt-2 grid gap-2" onSubmit={save}>
          <TextField
            label="Folder"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
            hint="such as /media/copies; empty for none"
            error={wrong}
          />
          <Button type="submit" className="justify-self-start" disabled={set.isPending || folder.trim() === known}>
            {set.isPending ? "Copying…" : "Save"}
          </Button>
        </Form>
      ) : (
        <p className="mt-2">{known === "" ? "None is set." : known} It is set at the machine itself.</p>
      )}
      {known !== "" && (
        <p className="mt-2 text-note text-ink2">
          {view.second_at ? `Last good copy there ${moment(view.second_at)}` : "No copy there yet."}
        </p>
      )}
    </Part>
  );
}

function Checked({ view }: { view: View }) {
  return (
    <Part title="Weekly check">
      <p className="mt-1 text-ink2">
        {view.checked_at
          ? `${day(view.checked_at)}: ${view.complaints.length === 0 ? "sound" : counted(view.complaints.length, "finding")}.`
          : "Not checked yet: it happens by itself, once a week."}
      </p>
      {view.complaints.length > 0 && (
        <ul className="mt-1 grid gap-1 text-step">
          {view.complaints.map((line) => (
            <li key={line} className="border-l-2 border-ochre pl-2">
              {line}
            </li>
          ))}
        </ul>
      )}
    </Part>
  );
}
