import { useRef, useState } from "react";
import { Form } from "@/ui/form";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";

type Signature = Schemas["SignatureView"];

export const useSignature = () => queries.useQuery("get", "/api/signature").data;

/** The reviewer's name and mark, which stand at the foot of every card. */
export function SignatureDialog({ signature, onClose }: { signature: Signature; onClose: () => void }) {
  const { tell } = useNotice();
  const [name, setName] = useState(signature.name);
  const [says, setSays] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const params = { header: atRevision(signature.revision) };
  const save = useWrite(() => data(api.PATCH("/api/signature", { params, body: { name } })));
  const setMark = useWrite((picture: File) =>
    data(
      api.PUT("/api/signature/mark", {
        params,
        headers: { "Content-Type": "application/octet-stream" },
        body: picture as never,
        bodySerializer: (body) => body as never,
      }),
    ),
  );
  const removeMark = useWrite(() => data(api.DELETE("/api/signature/mark", { params })));
  const answers = (done: string) => ({
    onSuccess: () => {
      setSays(null);
      tell({ says: done, look: "plain" as const });
    },
    onError: (error: Error) => setSays(error.message),
  });
  return (
    <Dialog open onClose={onClose} title="Your name and mark" width="max-w-[520px]">
      <Form
        className="grid gap-4"
        onSubmit={() => {
          save.mutate(undefined, answers("Name saved."));
        }}
      >
        <p className="text-ink2">At the foot of every card, in every shape.</p>
        <div className="flex items-end gap-2">
          <TextField className="flex-1" label="Name" value={name} maxLength={60} onChange={(event) => setName(event.target.value)} />
          <Button type="submit" look="main" disabled={save.isPending || name.trim() === signature.name}>
            Save
          </Button>
        </div>
        <div className="flex items-center gap-3">
          {signature.has_mark ? (
            <img
              src={`/api/signature/mark#${String(signature.revision)}`}
              alt="Your mark"
              className="size-16 rounded border border-line object-contain"
            />
          ) : (
            <span className="grid size-16 place-items-center rounded border border-dashed border-edge text-sm text-ink2">no mark</span>
          )}
          <input
            ref={file}
            type="file"
            aria-label="Picture of your mark"
            accept="image/png,image/jpeg,image/webp"
            className="sr-only"
            tabIndex={-1}
            onChange={(event) => {
              const picture = event.target.files?.[0];
              if (picture) setMark.mutate(picture, answers("Mark saved."));
              event.target.value = "";
            }}
          />
          <Button size="low" disabled={setMark.isPending} onClick={() => file.current?.click()}>
            {signature.has_mark ? "Another mark" : "Add a mark"}
          </Button>
          {signature.has_mark && (
            <Button size="low" disabled={removeMark.isPending} onClick={() => removeMark.mutate(undefined, answers("Mark removed."))}>
              Remove
            </Button>
          )}
          <span className="text-step text-ink2">PNG, JPEG or WebP; square looks best.</span>
        </div>
        {says && (
          <p role="alert" className="text-stop">
            {says}
          </p>
        )}
      </Form>
    </Dialog>
  );
}
