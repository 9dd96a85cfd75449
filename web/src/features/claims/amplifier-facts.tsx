import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, atRevision, data } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { writeFuses } from "@/ui/numbers";
import { wiringWords } from "@/ui/wirings";
import type { AmplifierInHand } from "../amplifier-layout";
import { CLASSES, PURPOSES, SUPPLIES } from "./amplifier-words";
import { moreFacts, provenanceWords } from "./more-facts";

/** The amplifier itself: what is printed on its case, and who owns it. */
export function AmplifierFacts({ inHand }: { inHand: AmplifierInHand }) {
  const { amplifier, summary } = inHand;
  const [deleting, setDeleting] = useState(false);
  const floors = amplifier.floors?.map((floor) => `${String(floor.load_ohm)}\u202fΩ, ${wiringWords(floor.wiring)}`).join("; ");
  const facts: [string, string][] = [
    ["Class", CLASSES[amplifier.class]],
    ["Channels", String(amplifier.channels)],
    ["Made for", PURPOSES[amplifier.purpose]],
    ["Supply", SUPPLIES[amplifier.supply_type]],
    ["Fuses", amplifier.fuses_a?.length ? `${writeFuses(amplifier.fuses_a).replace("x", "×")}\u202fA on board` : "none noted"],
    ["Lowest load", floors !== undefined && floors !== "" ? floors : "not stated"],
    ["Supply up to", amplifier.max_supply_v == null ? "not stated" : `${String(amplifier.max_supply_v)}\u202fV`],
    ["Price", [summary.price, amplifier.price?.on && `on ${amplifier.price.on}`].filter(Boolean).join(" ") || "not noted"],
    ["Ownership", provenanceWords(amplifier)],
    ...moreFacts(amplifier, inHand.terminals_words),
  ];
  return (
    <section>
      <h2 className="text-note font-firm text-ink2">The amplifier</h2>
      <dl className="mt-2 grid grid-cols-[112px_1fr] gap-x-3 gap-y-1 text-step sm:max-lg:grid-cols-[112px_1fr_112px_1fr]">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-ink2">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <div className="mt-3.5 flex gap-2">
        <Link className={buttonClass("plain", "low")} to="../edit" relative="path">
          Change
        </Link>
        <Link className={buttonClass("plain", "low")} to="../record" relative="path">
          Inside, tour, loan <Kbd>F</Kbd>
        </Link>
        <Button look="stop" size="low" onClick={() => setDeleting(true)}>
          Delete
        </Button>
      </div>
      {deleting && <DeleteDialog inHand={inHand} onClose={() => setDeleting(false)} />}
    </section>
  );
}

function DeleteDialog({ inHand, onClose }: { inHand: AmplifierInHand; onClose: () => void }) {
  const navigate = useNavigate();
  const { tell } = useNotice();
  const remove = useWrite(() =>
    data(api.DELETE("/api/amplifiers/{id}", { params: { path: { id: inHand.id }, header: atRevision(inHand.revision) } })),
  );
  const confirm = () =>
    remove.mutate(undefined, {
      onSuccess: () => {
        tell({ says: `${inHand.summary.name} deleted.`, look: "plain", undo: true });
        void navigate("/");
      },
      onError: (error) => {
        tell({ says: error.message, look: "stop" });
        onClose();
      },
    });
  const count = (n: number, one: string) => `${String(n)} ${one}${n === 1 ? "" : "s"}`;
  return (
    <Dialog open onClose={onClose} title={`Delete ${inHand.summary.name}?`} width="max-w-[460px]">
      <p>
        This also deletes {count(inHand.claims.length, "claim")}, what is logged for {count(inHand.summary.logged, "place")} of its ladder,
        and its verdict. Undo brings all of it back.
      </p>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>Cancel</Button>
        <Button look="stop" disabled={remove.isPending} onClick={confirm}>
          Delete it
        </Button>
      </div>
    </Dialog>
  );
}
