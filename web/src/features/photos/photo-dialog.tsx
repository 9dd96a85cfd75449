import { ArrowUpRight, Circle, Trash2, Type } from "lucide-react";
import { Form } from "@/ui/form";
import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { drawn, freeLabel, inTheMiddle, moved, stepOf, type Mark, type Shape, type Spot } from "./marks";
import { MarksDrawing } from "./marks-drawing";

const TOOLS: readonly (readonly [Shape, string, typeof Circle])[] = [
  ["arrow", "Arrow", ArrowUpRight],
  ["ring", "Ring", Circle],
  ["label", "Label", Type],
];

/** A photo at full size: what it shows, marks drawn on it, and whether the sheet has it. */
export function PhotoDialog({ photo, onClose }: { photo: Schemas["PhotoView"]; onClose: () => void }) {
  const { tell } = useNotice();
  const [caption, setCaption] = useState(photo.caption ?? "");
  const [onSheet, setOnSheet] = useState(photo.on_sheet ?? false);
  const [marks, setMarks] = useState<readonly Mark[]>(photo.marks ?? []);
  const [tool, setTool] = useState<Shape>("ring");
  const [inHand, setInHand] = useState<number | null>(null);
  const [drag, setDrag] = useState<{ from: Spot; to: Spot } | null>(null);
  const [says, setSays] = useState<string | null>(null);
  const picture = useRef<HTMLDivElement>(null);
  const save = useWrite(() =>
    data(
      api.PATCH("/api/photos/{id}", {
        params: { path: { id: photo.id }, header: atRevision(photo.revision) },
        body: { caption, marks: [...marks], on_sheet: onSheet },
      }),
    ),
  );
  const spot = (event: PointerEvent): Spot => {
    const box = picture.current?.getBoundingClientRect();
    if (!box) return { x: 0.5, y: 0.5 };
    return { x: (event.clientX - box.left) / box.width, y: (event.clientY - box.top) / box.height };
  };
  const add = (mark: Mark) => {
    setInHand(marks.length);
    setMarks([...marks, mark.shape === "label" ? { ...mark, label: freeLabel(marks) } : mark]);
  };
  const change = (at: number, to: Mark) => setMarks(marks.map((mark, i) => (i === at ? to : mark)));
  const onKey = (event: KeyboardEvent, at: number) => {
    const step = stepOf(event.key);
    const mark = marks[at];
    if (!step || !mark) return;
    event.preventDefault();
    change(at, moved(mark, step, event.shiftKey));
  };
  return (
    <Dialog open onClose={onClose} title="Photo" width="max-w-[1040px]">
      <Form
        className="grid gap-4 md:grid-cols-[minmax(0,1fr)_280px]"
        onSubmit={() => {
          save.mutate(undefined, {
            onSuccess: () => {
              tell({ says: "Photo saved.", look: "plain", undo: true });
              onClose();
            },
            onError: (error) => setSays(error.message),
          });
        }}
      >
        <div className="grid content-start gap-2">
          <div role="radiogroup" aria-label="What to draw" className="flex gap-1.5">
            {TOOLS.map(([shape, name, Icon]) => (
              <Button
                key={shape}
                role="radio"
                aria-checked={tool === shape}
                size="low"
                className="min-h-11 aria-checked:border-verdigris aria-checked:text-verdigris"
                onClick={() => setTool(shape)}
              >
                <Icon size={16} aria-hidden /> {name}
              </Button>
            ))}
            <Button size="low" look="quiet" className="min-h-11" onClick={() => add(inTheMiddle(tool))}>
              Add in the middle
            </Button>
          </div>
          <div
            ref={picture}
            data-photo
            className="relative mx-auto max-h-[58vh] w-fit cursor-crosshair touch-none select-none"
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId);
              setDrag({ from: spot(event), to: spot(event) });
            }}
            onPointerMove={(event) => drag && setDrag({ ...drag, to: spot(event) })}
            onPointerCancel={() => setDrag(null)}
            onPointerUp={(event) => {
              if (!drag) return;
              const to = spot(event);
              const far = Math.hypot(to.x - drag.from.x, to.y - drag.from.y) > 0.012;
              setDrag(null);
              // A tap leaves a mark only where a label is wanted: a ring or an arrow of no size shows nothing.
              if (far || tool === "label") add(drawn(tool, drag.from, to));
            }}
          >
            <img
              src={`/api/photos/${photo.id}`}
              alt={photo.caption}
              width={photo.width_px}
              height={photo.height_px}
              draggable={false}
              className="max-h-[58vh] w-auto rounded object-contain"
            />
            <MarksDrawing
              marks={drag ? [...marks, drawn(tool, drag.from, drag.to)] : marks}
              width={photo.width_px}
              height={photo.height_px}
              inHand={inHand}
            />
          </div>
        </div>
        <div className="grid content-start gap-3">
          <TextField label="What it shows" value={caption} maxLength={200} onChange={(event) => setCaption(event.target.value)} />
          <section aria-label="Marks" className="grid gap-1.5">
            <h3 className="text-sm text-ink2">Marks</h3>
            {marks.length === 0 && (
              <p className="text-step text-ink2">Drag on the photo. A label with the letter of a row shows its part.</p>
            )}
            <ul className="grid gap-1.5">
              {marks.map((mark, i) => (
                <li key={i} className="flex items-center gap-2">
                  <button
                    type="button"
                    aria-label={`Move the ${mark.shape} ${mark.label ?? ""}: arrow keys; with Shift its far end`}
                    aria-pressed={inHand === i}
                    className="min-h-9 w-16 rounded border border-line px-2 text-sm aria-pressed:border-copper"
                    onClick={() => setInHand(i)}
                    onFocus={() => setInHand(i)}
                    onKeyDown={(event) => onKey(event, i)}
                  >
                    {mark.shape}
                  </button>
                  <input
                    aria-label={`Words of the ${mark.shape}`}
                    value={mark.label ?? ""}
                    maxLength={60}
                    placeholder="words"
                    className="min-w-0 flex-1 rounded-md border border-edge bg-field px-2 py-1"
                    onFocus={() => setInHand(i)}
                    onChange={(event) => change(i, { ...mark, label: event.target.value })}
                  />
                  <button
                    type="button"
                    aria-label={`Remove the ${mark.shape} ${mark.label ?? ""}`}
                    className="rounded p-2 text-ink2 hover:bg-stop-wash hover:text-stop"
                    onClick={() => {
                      setMarks(marks.filter((_, at) => at !== i));
                      setInHand(null);
                    }}
                  >
                    <Trash2 size={15} aria-hidden />
                  </button>
                </li>
              ))}
            </ul>
          </section>
          <Check label="Show it on the result sheet" checked={onSheet} onChange={setOnSheet} />
          {says && (
            <p role="alert" className="text-stop">
              {says}
            </p>
          )}
          <div className="flex flex-wrap justify-end gap-2">
            <a href={`/api/photos/${photo.id}`} target="_blank" rel="noreferrer" className="mr-auto self-center text-step underline">
              Full size
            </a>
            <Button onClick={onClose}>Cancel</Button>
            <Button type="submit" look="main" disabled={save.isPending}>
              Save
            </Button>
          </div>
        </div>
      </Form>
    </Dialog>
  );
}
