import { useState } from "react";
import { useNavigate } from "react-router";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";
import { useAmplifierInHand } from "../amplifier-layout";
import { AmplifierForm } from "./amplifier-form";

type Amplifier = Schemas["Amplifier"];

const page = "mx-auto w-full max-w-[1020px] px-5 py-5";

export function NewAmplifierPage() {
  const navigate = useNavigate();
  const { tell } = useNotice();
  const create = useWrite((amplifier: Amplifier) => data(api.POST("/api/amplifiers", { body: amplifier })));
  const save = async (amplifier: Amplifier) => {
    const made = await create.mutateAsync(amplifier);
    tell({ says: `${made.summary.name} is on the shelf.`, look: "plain", undo: true });
    await navigate(`/amplifiers/${made.id}/claims`);
  };
  return (
    <main className={page}>
      <h1 className="wide mb-4 text-2xl font-strong">Add an amplifier</h1>
      <AmplifierForm before={null} back="/" save={save} label="Put it on the shelf" />
    </main>
  );
}

export function EditAmplifierPage() {
  const newest = useAmplifierInHand();
  // As it was when the form was opened: a change made elsewhere since is a conflict, never overwritten unseen.
  const [inHand] = useState(newest);
  const navigate = useNavigate();
  const { tell } = useNotice();
  const claims = `/amplifiers/${inHand.id}/claims`;
  const update = useWrite(
    (amplifier: Amplifier) =>
      data(
        api.PATCH("/api/amplifiers/{id}", {
          params: { path: { id: inHand.id }, header: atRevision(inHand.revision) },
          body: amplifier,
        }),
      ),
    [inHand.id],
  );
  const save = async (amplifier: Amplifier) => {
    await update.mutateAsync(amplifier);
    tell({ says: `${amplifier.make} ${amplifier.model} changed.`, look: "plain", undo: true });
    await navigate(claims);
  };
  return (
    <main className={page}>
      <h2 className="wide mb-4 text-2xl font-strong">Change the amplifier</h2>
      <AmplifierForm before={inHand.amplifier} back={claims} save={save} label="Save the changes" />
    </main>
  );
}
