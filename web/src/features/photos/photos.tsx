import { Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { usePhotos, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { useNotice } from "@/ui/notice";
import { PhotoDialog } from "./photo-dialog";

type Photo = Schemas["PhotoView"];

/** Photos of the amplifier, or of one run. What is sent is decoded and encoded again; the place where it was taken is dropped. */
export function Photos({ amplifierId, runId }: { amplifierId: string; runId?: string }) {
  const { tell } = useNotice();
  const photos = usePhotos(amplifierId);
  const file = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const add = useWrite(
    async (picture: File) => {
      const added = await data(
        api.POST("/api/amplifiers/{id}/photos", {
          params: { path: { id: amplifierId } },
          headers: { "Content-Type": "application/octet-stream" },
          body: picture as never,
          bodySerializer: (body) => body as never,
        }),
      );
      if (runId === undefined) return added;
      const at = { path: { id: added.id }, header: atRevision(added.revision) };
      return data(api.PATCH("/api/photos/{id}", { params: at, body: { run_id: runId } }));
    },
    [amplifierId],
  );
  const shown = (photos.data?.photos ?? []).filter((photo) => runId === undefined || photo.run_id === runId);
  const send = async (pictures: File[]) => {
    for (const [i, picture] of pictures.entries()) {
      setBusy(`Adding ${String(i + 1)} of ${String(pictures.length)}…`);
      try {
        await add.mutateAsync(picture);
        tell({ says: "Photo added.", look: "plain", undo: true });
      } catch (error) {
        tell({ says: `${picture.name}: ${(error as Error).message}`, look: "stop" });
      }
    }
    setBusy(null);
    if (file.current) file.current.value = "";
  };
  return (
    <section aria-label="Photos">
      <h2 className="text-note font-firm text-ink2">Photos</h2>
      {shown.length > 0 ? (
        <ul className="mt-2 grid grid-cols-2 gap-3 sm:max-lg:grid-cols-3">
          {shown.map((photo) => (
            <PhotoCard key={`${photo.id} ${String(photo.revision)}`} photo={photo} />
          ))}
        </ul>
      ) : (
        <p className="mt-1 text-step text-ink2">None yet. JPEG, PNG or WebP; the place they were taken is stripped.</p>
      )}
      <input
        ref={file}
        type="file"
        aria-label="Photos to add"
        multiple
        accept="image/jpeg,image/png,image/webp"
        className="sr-only"
        tabIndex={-1}
        onChange={(event) => void send([...(event.target.files ?? [])])}
      />
      <div className="mt-2.5 flex items-center gap-3">
        <Button size="low" disabled={busy !== null} onClick={() => file.current?.click()}>
          Add photos
        </Button>
        <span role="status" className="text-sm text-ink2">
          {busy}
        </span>
      </div>
    </section>
  );
}

function PhotoCard({ photo }: { photo: Photo }) {
  const { tell } = useNotice();
  const init = { params: { path: { id: photo.id }, header: atRevision(photo.revision) } };
  const [caption, setCaption] = useState(photo.caption ?? "");
  const name = useWrite((words: string) => data(api.PATCH("/api/photos/{id}", { ...init, body: { caption: words } })));
  const remove = useWrite(() => data(api.DELETE("/api/photos/{id}", init)));
  const onError = (error: Error) => tell({ says: error.message, look: "stop" });
  const src = `/api/photos/${photo.id}`;
  const [open, setOpen] = useState(false);
  const marks = photo.marks?.length ?? 0;
  const told = [marks > 0 ? `${String(marks)} ${marks === 1 ? "mark" : "marks"}` : null, photo.on_sheet ? "on the sheet" : null];
  return (
    <li className="overflow-hidden rounded-md border border-line bg-sheet">
      {open && <PhotoDialog photo={photo} onClose={() => setOpen(false)} />}
      <button
        type="button"
        className="relative block w-full cursor-zoom-in"
        aria-label={`Open the photo: ${photo.caption || "without a caption"}`}
        onClick={() => setOpen(true)}
      >
        <img
          src={src}
          alt={photo.caption}
          width={photo.width_px}
          height={photo.height_px}
          loading="lazy"
          className="h-32 w-full object-cover"
        />
        <span className="absolute right-1.5 bottom-1.5 rounded bg-[#0d1917]/80 px-1.5 text-sm text-[#ffd9a8] empty:hidden">
          {told.filter((words) => words !== null).join(" · ")}
        </span>
      </button>
      <div className="flex items-center gap-1 px-1.5 py-1">
        <input
          aria-label="What the photo shows"
          placeholder="What it shows"
          value={caption}
          maxLength={200}
          className="min-w-0 flex-1 rounded bg-transparent px-1.5 py-1 text-note"
          onChange={(event) => setCaption(event.target.value)}
          onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
          onBlur={() => {
            if (caption.trim() !== (photo.caption ?? "")) name.mutate(caption, { onError });
          }}
        />
        <button
          type="button"
          aria-label={`Remove the photo: ${photo.caption || "without a caption"}`}
          className="rounded p-1.5 text-ink2 hover:bg-stop-wash hover:text-stop"
          onClick={() =>
            remove.mutate(undefined, { onSuccess: () => tell({ says: "Photo removed.", look: "plain", undo: true }), onError })
          }
        >
          <Trash2 size={15} aria-hidden />
        </button>
      </div>
    </li>
  );
}
