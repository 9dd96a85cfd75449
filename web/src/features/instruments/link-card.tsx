import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, Refusal, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { ChoiceField } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { TryLines } from "./try-lines";

type Link = Schemas["LinkView"];
type Profile = Schemas["ShippedProfile"];

/** One instrument: its state in words, its address and profile, its lines. */
export function LinkCard({ link, profiles }: { link: Link; profiles: Profile[] }) {
  const [editing, setEditing] = useState(false);
  const { state } = link;
  const words = state == null ? "not linked" : state.kind === "ready" ? "connected" : state.kind === "connecting" ? "connecting" : "lost";
  const look = state?.kind === "ready" ? "text-verdigris" : state?.kind === "faulty" ? "text-stop" : "text-ink2";
  return (
    <section aria-label={link.words} className="min-w-0 rounded-lg border border-line bg-sheet px-4 py-3">
      <div className="flex items-baseline justify-between gap-3">
        <h2 className="wide text-lg font-bold first-letter:uppercase">{link.words}</h2>
        <b className={`font-semibold ${look}`}>{words}</b>
      </div>
      {link.address && (
        <p className="num mt-0.5 truncate text-note text-ink2">
          {link.address}
          {state?.kind === "ready" && ` · ${state.idn}`}
        </p>
      )}
      {state?.kind === "faulty" && <p className="mt-1 font-semibold text-stop">{state.says}. Trying again.</p>}
      {editing ? (
        <LinkForm link={link} profiles={profiles} onDone={() => setEditing(false)} />
      ) : (
        <div className="mt-2 flex gap-2">
          <Button size="compact" onClick={() => setEditing(true)}>
            {link.address ? "Change" : "Link"}
          </Button>
          {link.address && <RemoveButton role={link.role} />}
        </div>
      )}
      {link.lines.length > 0 && !editing && <TryLines link={link} />}
    </section>
  );
}

function RemoveButton({ role }: { role: Schemas["Role"] }) {
  const { tell } = useNotice();
  const remove = useWrite(() => data(api.DELETE("/api/instruments/{role}", { params: { path: { role } } })));
  return (
    <Button
      look="quiet"
      size="compact"
      disabled={remove.isPending}
      onClick={() => remove.mutate(undefined, { onError: (error) => tell({ says: error.message, look: "stop" }) })}
    >
      Remove
    </Button>
  );
}

function LinkForm({ link, profiles, onDone }: { link: Link; profiles: Profile[]; onDone: () => void }) {
  const [address, setAddress] = useState(link.address ?? "127.0.0.1:5025");
  const [meter, setMeter] = useState(link.meter ?? "");
  const [profile, setProfile] = useState(link.profile ?? profiles[0]?.text ?? "");
  const [problems, setProblems] = useState<{ path: string; says: string }[]>([]);
  const save = useWrite((body: Schemas["LinkToSet"]) =>
    data(api.PUT("/api/instruments/{role}", { params: { path: { role: link.role } }, body })),
  );
  const error = (path: string) => problems.find((problem) => problem.path === path)?.says;
  const left = problems.filter((problem) => problem.path !== "address" && problem.path !== "meter");
  return (
    <Form
      className="mt-2 grid gap-2.5"
      onSubmit={() => {
        save.mutate(
          { address, profile, meter: meter.trim() === "" ? null : meter.trim() },
          {
            onSuccess: onDone,
            onError: (refusal) =>
              setProblems(
                refusal instanceof Refusal && refusal.problems.length > 0 ? refusal.problems : [{ path: "", says: refusal.message }],
              ),
          },
        );
      }}
    >
      <div className="grid gap-2.5 sm:grid-cols-[1fr_160px]">
        <TextField
          label="Host and port, or serial port"
          autoFocus
          value={address}
          error={error("address")}
          onChange={(event) => setAddress(event.target.value)}
        />
        <TextField
          label="Meter of the bench"
          hint="its id, if it has one"
          value={meter}
          error={error("meter")}
          onChange={(event) => setMeter(event.target.value)}
        />
      </div>
      <ChoiceField
        label="Start from"
        value={profiles.find((one) => one.text === profile)?.name ?? ""}
        onChoose={(name) => setProfile(profiles.find((one) => one.name === name)?.text ?? profile)}
        options={[["", "own profile"], ...profiles.map((one) => [one.name, one.name] as const)]}
      />
      <label className="grid gap-1 text-sm text-ink2">
        Profile, as TOML
        <textarea
          className="num h-[220px] w-full rounded-md border border-edge bg-field px-2.5 py-1.5 text-sm text-ink"
          spellCheck={false}
          value={profile}
          onChange={(event) => setProfile(event.target.value)}
        />
      </label>
      {left.map((problem) => (
        <p key={problem.path + problem.says} role="alert" className="text-stop">
          {problem.path && <b className="num font-semibold">{problem.path.replace("profile.", "")}: </b>}
          {problem.says}
        </p>
      ))}
      <div className="flex gap-2">
        <Button type="submit" look="main" size="low" disabled={save.isPending}>
          Link it
        </Button>
        <Button size="low" onClick={onDone}>
          Cancel
        </Button>
      </div>
    </Form>
  );
}
