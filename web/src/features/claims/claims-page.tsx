import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { Margin, useNotice } from "@/ui/notice";
import { SideColumn } from "@/ui/side-column";
import { Empty } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { useAmplifierInHand } from "../amplifier-layout";
import { Photos } from "../photos/photos";
import { AmplifierFacts } from "./amplifier-facts";
import { ClaimDialog } from "./claim-dialog";
import { ClaimTable } from "./claim-table";
import { Implications } from "./implications";
import { PasteDialog } from "./paste-dialog";
import { FusePicture } from "./sense-flags";
import { SourcesTable } from "./sources-table";

type ClaimView = Schemas["ClaimView"];

/** What the maker claims, and the amplifier itself. */
export function ClaimsPage() {
  const inHand = useAmplifierInHand();
  const navigate = useNavigate();
  const { tell } = useNotice();
  const [editing, setEditing] = useState<ClaimView | "new" | null>(null);
  const remove = useWrite(
    (row: ClaimView) => data(api.DELETE("/api/claims/{id}", { params: { path: { id: row.id }, header: atRevision(row.revision) } })),
    [inHand.id],
  );
  const onRemove = (row: ClaimView) =>
    remove.mutate(row, {
      onSuccess: () => tell({ says: "Claim removed.", look: "plain", undo: true }),
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  const [pasting, setPasting] = useState(false);
  useKeys({
    n: () => setEditing("new"),
    i: () => setPasting(true),
    e: () => void navigate("../edit", { relative: "path" }),
    f: () => void navigate("../record", { relative: "path" }),
  });
  const sources = [...new Set(inHand.claims.map((row) => row.claim.source))];
  return (
    <div className="grid flex-1 grid-cols-1 content-start lg:grid-cols-[var(--side)_1fr] lg:content-stretch">
      <main className="min-w-0 px-4 py-[18px] sm:px-6 lg:order-2">
        <div className="flex flex-wrap items-baseline gap-x-4">
          <h2 className="wide text-2xl font-strong">Claims</h2>
          {sources.length > 0 && <span className="text-note text-ink2">copied from the {sources.join(", the ")}</span>}
        </div>
        {inHand.claims.length === 0 ? (
          <div className="mt-4">
            <Empty title="No claim entered yet.">
              <p>
                Copy down one line of the manual, the box or the page at a time: which channels, into which load, how many watts, at which
                voltage.
              </p>
              <div className="flex flex-wrap gap-2">
                <Button look="main" onClick={() => setEditing("new")}>
                  Add a claim
                </Button>
                <Button onClick={() => setPasting(true)}>Paste a spec table</Button>
              </div>
            </Empty>
          </div>
        ) : (
          <>
            <ClaimTable rows={inHand.claims} addsUp={inHand.sense.view.adds_up} onEdit={setEditing} onRemove={onRemove} />
            <div className="mt-3.5 flex flex-wrap items-center gap-3">
              {inHand.summary.logged < inHand.summary.planned && (
                <Link className={buttonClass("main")} to="../plan" relative="path">
                  Plan the runs <Kbd>P</Kbd>
                </Link>
              )}
              <Button onClick={() => setEditing("new")}>
                Add a claim <Kbd>N</Kbd>
              </Button>
              <Button onClick={() => setPasting(true)}>
                Paste a spec table <Kbd>I</Kbd>
              </Button>
            </div>
          </>
        )}
        <Implications inHand={inHand} />
        <SourcesTable rows={inHand.claims} />
      </main>
      <SideColumn label="The amplifier" className="gap-y-6 pt-[18px]">
        <FusePicture sense={inHand.sense} />
        <AmplifierFacts inHand={inHand} />
        <Photos amplifierId={inHand.id} />
        <Margin className="sticky bottom-0 mt-auto -mb-3 bg-paper pb-3" />
      </SideColumn>
      {pasting && <PasteDialog amplifierId={inHand.id} onClose={() => setPasting(false)} />}
      {editing && (
        <ClaimDialog
          amplifierId={inHand.id}
          amplifier={inHand.amplifier}
          row={editing === "new" ? null : editing}
          like={inHand.claims.findLast((row) => row.claim.kind !== "max")?.claim}
          onClose={() => setEditing(null)}
        />
      )}
    </div>
  );
}
