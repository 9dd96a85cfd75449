import { ChevronDown, Trash2 } from "lucide-react";
import { Form } from "@/ui/form";
import { useState } from "react";
import { Link, useLocation } from "react-router";
import { api, data, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { Opens } from "@/ui/opens";

type Page = Schemas["PageOfView"];

/** Saved views of a page: filters and order by a name of the user's own, and a place to save those of now. */
export function ViewsMenu({ page, path, className }: { page: Page; path: string; className: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Opens
      label="Saved views"
      className={className}
      held={[open, setOpen]}
      shows={() => <ViewsList page={page} path={path} onDone={() => setOpen(false)} />}
    >
      Views
      <ChevronDown size={15} aria-hidden />
    </Opens>
  );
}

function ViewsList({ page, path, onDone }: { page: Page; path: string; onDone: () => void }) {
  const { data: all } = queries.useQuery("get", "/api/views");
  const { tell } = useNotice();
  const drop = useWrite((id: string) => data(api.DELETE("/api/views/{id}", { params: { path: { id } } })));
  const own = all?.views.filter((view) => view.page === page) ?? [];
  return (
    <>
      {own.length === 0 ? (
        <p className="mb-3 text-ink2">Nothing saved yet: set filters and an order, then give them a name.</p>
      ) : (
        <ul className="mb-3 grid gap-1">
          {own.map((view) => (
            <li key={view.id} className="flex items-center gap-2">
              <Link
                className="min-w-0 flex-1 truncate rounded px-2 py-1.5 hover:bg-verdigris-wash"
                to={`${path}?${view.query}`}
                onClick={onDone}
              >
                {view.name}
                {view.on_site && <small className="text-sm text-ink2"> on the web site</small>}
              </Link>
              <button
                type="button"
                aria-label={`Delete the view ${view.name}`}
                className="rounded p-2 text-ink2 hover:bg-stop-wash hover:text-stop"
                onClick={() =>
                  drop.mutate(view.id, {
                    onSuccess: () => tell({ says: `Deleted the view ${view.name}.`, look: "plain", undo: true }),
                    onError: (why) => tell({ says: why.message, look: "stop" }),
                  })
                }
              >
                <Trash2 size={15} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
      <SaveView page={page} taken={own.map((view) => view.name)} onDone={onDone} />
    </>
  );
}

function SaveView({ page, taken, onDone }: { page: Page; taken: readonly string[]; onDone: () => void }) {
  const { search } = useLocation();
  const { tell } = useNotice();
  const [name, setName] = useState("");
  const [onSite, setOnSite] = useState(false);
  const [error, setError] = useState<string>();
  const save = useWrite((body: Schemas["ViewToSave"]) => data(api.POST("/api/views", { body })));
  const submit = () =>
    save.mutate(
      { page, name, query: search.slice(1), on_site: onSite },
      {
        onSuccess: () => {
          tell({ says: `Saved the view ${name.trim()}.`, look: "plain", undo: true });
          onDone();
        },
        onError: (why) => setError(problemsOf(why, "name")[0]?.says),
      },
    );
  return (
    <Form className="grid gap-2 border-t border-hair pt-3" onSubmit={submit}>
      <TextField
        label="Save what is shown now as"
        maxLength={60}
        value={name}
        error={error}
        hint={taken.includes(name.trim()) ? "There is one by this name: it is replaced." : undefined}
        onChange={(event) => {
          setName(event.target.value);
          setError(undefined);
        }}
      />
      {page === "compare" && <Check label="A page of the web site, where amplifiers are ticked" checked={onSite} onChange={setOnSite} />}
      <Button type="submit" className="justify-self-end" disabled={save.isPending}>
        Save
      </Button>
    </Form>
  );
}
