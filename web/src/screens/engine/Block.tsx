import { useQuery } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { Dialog, DropdownMenu } from "radix-ui";
import { useState } from "react";
import { api, ask, type Failure } from "../../api/client";
import { whoAmI } from "../../api/queries";
import { savingText } from "../../drafts/Aside";
import { Cell } from "../../shell/Cell";
import { StartProcedure } from "../procedures/StartProcedure";
import type { SheetDraft } from "./useSheet";

/** Block is the title block of the sheet. */
export function Block({ draft }: { draft: SheetDraft }) {
  const { sheet, meta, findings, derived } = draft.view;
  const navigate = useNavigate();
  const open = findings.filter((f) => f.severity === "should-fix").length;
  return (
    <div className="flex flex-none flex-wrap border-b border-ink bg-(--white)">
      <Cell name="Engine code">
        <h1 className="text-lead">{sheet.code}</h1>
      </Cell>
      <Cell name="Engine" grow>
        <span title={sheet.use}>
          {sheet.maker}, {sheet.cylinders} cylinder{sheet.cylinders === 1 ? "" : "s"}
          <span className="font-normal text-ink-2"> {sheet.use}</span>
        </span>
      </Cell>
      <Cell name="Engine sheet">
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            className="whitespace-nowrap hover:underline"
            aria-label={`Sheet ${meta.number}, ${meta.state}, other versions`}
          >
            {meta.number} <span className="font-normal text-ink-2">{meta.state}</span>{" "}
            <span className="text-fine text-ink-2">▾</span>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content className="float z-50 max-w-[380px] min-w-[220px] py-1" align="start">
              {meta.versions.map((v) => (
                <DropdownMenu.Item
                  key={v.number}
                  onSelect={() => navigate({ to: "/engines/$code", params: { code: meta.code }, search: { sheet: v.number } })}
                  className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash"
                >
                  <b className="font-[650]">{v.number}</b> {v.state}{" "}
                  {v.number === meta.number && <span className="text-ink-2">(this one)</span>}
                  {v.reason && <span className="block text-small text-ink-2">{v.reason}</span>}
                </DropdownMenu.Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </Cell>
      <Cell name="Years" may="go">
        {sheet.years.from}–{sheet.years.to || "now"}
      </Cell>
      <Cell name="Runs" may="go">
        {sheet.running}
      </Cell>
      <Cell name="Everything home every">
        {derived.cycle} turn{derived.cycle === 1 ? "" : "s"}
      </Cell>
      <Cell name="Procedures">
        <Link to="/procedures" search={{ q: sheet.code }} className="no-underline hover:underline">
          {meta.procedures}
        </Link>
      </Cell>
      <Cell name="Keeps it out of use">
        <span className={meta.blocking || findings.some((f) => f.severity === "blocks") ? "text-clash" : "text-held"}>
          {findings.filter((f) => f.severity === "blocks").length || "nothing"}
          {open > 0 && <span className="font-normal text-ink-2">, {open} should fix</span>}
        </span>
      </Cell>
    </div>
  );
}

export function Saved({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  const { post } = draft;
  if (!meta.editable) return null;
  const at = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" }).format(new Date(meta.changedAt));
  return (
    <span role="status" className={post.saving === "offline" || post.saving === "out" ? "font-[650] text-clash" : ""}>
      {savingText(post.saving, post.waiting, at, true)}
    </span>
  );
}

/** Begin starts a procedure on this code, as soon as a sheet of it is in use. */
export function Begin({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  const { data: me } = useQuery(whoAmI);
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  if (!meta.inUse || !me?.writes) return null;
  return (
    <>
      <button type="button" className="button slim" onClick={() => setOpen(true)}>
        Start a procedure
      </button>
      <StartProcedure
        engine={meta.code}
        open={open}
        onOpenChange={setOpen}
        onStarted={(id) => navigate({ to: "/revisions/$revision", params: { revision: String(id) } })}
      />
    </>
  );
}

/** StartDraft starts the next version, or goes to the one that is open. */
export function StartDraft({ draft }: { draft: SheetDraft }) {
  const { meta } = draft.view;
  const navigate = useNavigate();
  const [reason, setReason] = useState("");
  const [trouble, setTrouble] = useState("");
  if (meta.state === "draft" || !meta.writes) return null;
  if (meta.draft)
    return (
      <button
        type="button"
        className="button slim"
        onClick={() => navigate({ to: "/engines/$code", params: { code: meta.code }, search: {} })}
      >
        Go to draft {meta.draft}
      </button>
    );
  return (
    <Dialog.Root>
      <Dialog.Trigger className="button slim">Change this sheet</Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog" aria-describedby={undefined}>
          <Dialog.Title className="text-head">
            Start sheet {Math.max(...meta.versions.map((v) => v.number)) + 1} of {meta.code}
          </Dialog.Title>
          <p className="mt-1 text-ink-2">The sheet in use stays as it is until the draft is put into use.</p>
          <form
            className="mt-3"
            onSubmit={async (e) => {
              e.preventDefault();
              try {
                const v = await ask(
                  api.POST("/api/engines/{code}/draft", { params: { path: { code: meta.code } }, body: { reason } }),
                );
                draft.put(v);
                navigate({ to: "/engines/$code", params: { code: meta.code }, search: {} });
              } catch (err) {
                setTrouble((err as Failure).message);
              }
            }}
          >
            <label>
              <span className="label">Why it changes</span>
              <input
                className="field"
                autoFocus
                value={reason}
                onChange={(e) => setReason(e.target.value)}
                placeholder="Engineering letter, drawing change, field note…"
              />
            </label>
            {trouble && (
              <p id="draft-trouble" role="alert" className="mt-2 border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-small">
                {trouble}
              </p>
            )}
            <div className="mt-3 flex gap-2">
              <button type="submit" className="button solid">
                Start the draft
              </button>
              <Dialog.Close className="button quiet">Cancel</Dialog.Close>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
