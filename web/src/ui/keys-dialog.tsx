import { Dialog } from "./dialog";
import { Kbd } from "./kbd";

const GROUPS: { title: string; keys: [string[], string][] }[] = [
  {
    title: "Everywhere",
    keys: [
      [["?"], "this list"],
      [["Ctrl Z"], "undo the last act of this tab"],
      [["Ctrl Y"], "redo it"],
      [["Z"], "list what undo and redo do next"],
      [["Esc"], "close what is open"],
    ],
  },
  {
    title: "Shelf",
    keys: [
      [["/"], "find an amplifier"],
      [["N"], "add an amplifier"],
      [["I"], "import a session file or a shelf"],
      [["↑", "↓", "Enter"], "choose one and open it"],
    ],
  },
  {
    title: "One amplifier",
    keys: [
      [["C"], "its claims"],
      [["P"], "its plan"],
      [["B"], "its runs, at the bench"],
      [["V"], "its verdict"],
      [["T"], "what goes out"],
    ],
  },
  {
    title: "Claims",
    keys: [
      [["N"], "add a claim"],
      [["I"], "paste a spec table in"],
      [["E"], "change the amplifier"],
      [["F"], "its record: inside, tour, loan, listening, guesses"],
    ],
  },
  {
    title: "Plan",
    keys: [
      [["Enter"], "start the runs"],
      [["L"], "add a load"],
      [["S"], "prepare: supply, idle draw, gain"],
    ],
  },
  {
    title: "Verdict",
    keys: [
      [["Tab", "Enter"], "on a figure: show its working, down to the readings"],
      [["S"], "lock the verdict as it stands"],
    ],
  },
  {
    title: "Traces",
    keys: [
      [["←", "→"], "along the wave; on an end of a stretch: move it, with Shift ten times as far"],
      [["+", "−", "0"], "zoom in, out, the whole of it"],
      [["[", "]"], "another channel"],
      [[",", "."], "the stretch before, the next one"],
      [["S"], "channels and scales"],
      [["Enter"], "log the stretch"],
    ],
  },
  {
    title: "Runs, while the line is empty (never within a second after a digit)",
    keys: [
      [["↑", "↓", "←", "→"], "move around the ladder"],
      [["Enter"], "go to the next run once this one is logged"],
      [["+"], "skip this run for now"],
      [["R"], "run the last one again"],
      [["S", "*"], "set up the load: rest voltage, load, tone, charger, drive"],
      [["U"], "undo the last act at this bench; claims stay"],
      [["L"], "add a load"],
      [["E"], "correct the line that was logged here"],
      [["H"], "its history"],
      [["K"], "the camera starts: chapters count from here"],
      [["M"], "a meter was wrong: strike it across the session"],
      [["O"], "play the tone of this run, or stop it"],
      [["D"], "let Pukka drive the run, with instruments linked"],
      [["Esc"], "stop a live run; hold it to cut the supply"],
      [["X"], "something went wrong: protection, fuse, smoke, died"],
      [["G"], "give a reason for a gated run"],
      [["A"], "arm a run past an open gate, or disarm it"],
    ],
  },
  {
    title: "Runs, in the line",
    keys: [
      [["1068 13.96 124.6"], "watts, supply volts, amps; separate with * or / on a ten-key pad"],
      [["84+81"], "two outputs"],
      [["38.2vp", "76vpp", "24.8vr"], "output volts: peak, peak to peak, rms"],
      [["0.8%", "61%e", "41c"], "distortion, efficiency as read, heatsink"],
      [["1068=1059", "@m2"], "second meter on the same reading; which meter"],
      [["front:84+rear:81"], "outputs by name"],
      [["14.6r"], "supply at rest before the run"],
      [["42>41.2vp 20cy"], "first and last of counted cycles"],
      [[">> 30s 1040w"], "after holding it"],
      [["-5db 210 14.3 20 0.02%"], "a row of level steps; Enter on an empty line makes them a run"],
      [["idle 14.6 1.4", "14.55r"], "idle draw; supply between runs"],
      [["# words"], "a note"],
      [["Enter"], "log it and go to the next run; a doubt about a reading needs a second Enter"],
    ],
  },
];

export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="Keys" width="max-w-[720px]">
      <div className="grid gap-x-8 gap-y-4 sm:grid-cols-2">
        {GROUPS.map((group) => (
          <section key={group.title} className="last:sm:col-span-2">
            <h3 className="mb-1.5 text-sm font-semibold text-ink2">{group.title}</h3>
            <dl className="grid gap-1.5">
              {group.keys.map(([keys, what]) => (
                <div key={what} className="flex flex-wrap items-baseline gap-x-2">
                  <dt className="flex gap-1">
                    {keys.map((key) => (
                      <Kbd key={key}>{key}</Kbd>
                    ))}
                  </dt>
                  <dd>{what}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
    </Dialog>
  );
}
