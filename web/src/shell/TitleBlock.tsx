import { Link, useNavigate } from "@tanstack/react-router";
import { DropdownMenu, Popover, Tooltip } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Failure, type S } from "../api/client";
import { Cell } from "./Cell";
import { NewDraft } from "./NewDraft";
import { type Moved, MovedOn, movedOn } from "./MovedOn";
import { say } from "./toast";

/** TitleBlock is the strip over every view of a procedure: what it is, for what, how far, and which latches are open. */
export function TitleBlock({
  meta,
  onClose,
  onRead,
  on,
  right,
  writes,
}: {
  meta: S["RevisionMeta"];
  /** onClose closes a latch over a version: the one shown, or a later one the person was told of */
  onClose: (latch: string, seen?: number) => Promise<unknown>;
  /** onRead shows the newest version */
  onRead: () => Promise<unknown>;
  on: "write" | "turns" | "redline" | "versions" | "sheet";
  right?: ReactNode;
  writes: boolean;
}) {
  const navigate = useNavigate();
  const go = (id: number) =>
    navigate({
      to: views[on],
      params: { revision: String(id) },
    });
  return (
    <div className="no-print flex-none">
      <div className="grid grid-cols-[auto_minmax(120px,1fr)_auto_auto_auto_auto] border-b border-ink bg-(--white) max-lg:flex max-lg:flex-wrap max-lg:[&>*:nth-child(2)]:flex-1">
        <Cell name="Engine code">
          <Link to="/engines/$code" params={{ code: meta.engine }} className="no-underline hover:underline">
            {meta.engine}
          </Link>
        </Cell>
        <Cell name="Procedure">
          <h1 title={meta.title} className="truncate text-lead">
            {meta.title}
          </h1>
        </Cell>
        <Cell name="Revision">
          <DropdownMenu.Root>
            <DropdownMenu.Trigger
              className="whitespace-nowrap hover:underline"
              aria-label={`Revision ${meta.number} ${meta.state}, other revisions`}
            >
              {meta.number} <span className="font-normal text-ink-2">{meta.state}</span>{" "}
              <span className="text-fine text-ink-2">▾</span>
            </DropdownMenu.Trigger>
            <DropdownMenu.Portal>
              <DropdownMenu.Content className="float z-50 min-w-[190px] py-1" align="start">
                {meta.siblings.map((s) => (
                  <DropdownMenu.Item
                    key={s.id}
                    onSelect={() => go(s.id)}
                    className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash"
                  >
                    <b className="font-[650]">{s.number}</b> {s.state}{" "}
                    {s.id === meta.id && <span className="text-ink-2">(this one)</span>}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Content>
            </DropdownMenu.Portal>
          </DropdownMenu.Root>
        </Cell>
        <Cell name="Applicability" may="go">
          {meta.applies}
        </Cell>
        <Cell name="Blocks release">
          <span className={meta.blocking ? "text-clash" : "text-held"}>{meta.blocking || "nothing"}</span>
        </Cell>
        <Cell name={meta.state === "latched" || meta.state === "superseded" ? "Latches closed" : "Latches to close"}>
          <span className="flex gap-1.5 pt-px">
            {meta.latches.map((l) => (
              <LatchButton key={l.latch} mark={l} onClose={onClose} onRead={onRead} />
            ))}
          </span>
        </Cell>
      </div>
      <div className="flex flex-wrap items-end border-b border-rule bg-film px-3.5 pt-1">
        <Link
          to="/revisions/$revision"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "write"}
        >
          {meta.editable ? "Write" : "Steps"}
        </Link>
        <Link
          to="/revisions/$revision/turns"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "turns"}
        >
          Turns
        </Link>
        <Link
          to="/revisions/$revision/redline"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "redline"}
        >
          Redline
        </Link>
        <Link
          to="/revisions/$revision/versions"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "versions"}
        >
          Versions
        </Link>
        <Link
          to="/revisions/$revision/sheet"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "sheet"}
        >
          Job sheet
        </Link>
        <span className="ml-auto flex flex-wrap items-center gap-x-2 self-center text-small text-ink-2">
          {right}
          {meta.state === "latched" && writes && <NewDraft meta={meta} onDraft={go} />}
        </span>
      </div>
    </div>
  );
}

const views = {
  write: "/revisions/$revision",
  turns: "/revisions/$revision/turns",
  redline: "/revisions/$revision/redline",
  versions: "/revisions/$revision/versions",
  sheet: "/revisions/$revision/sheet",
} as const;

const names: Record<string, string> = { author: "Author", technical: "Technical", editorial: "Editorial", bench: "Bench" };

function LatchButton({
  mark,
  onClose,
  onRead,
}: {
  mark: S["LatchMark"];
  onClose: (latch: string, seen?: number) => Promise<unknown>;
  onRead: () => Promise<unknown>;
}) {
  const [open, setOpen] = useState(false);
  const [moved, setMoved] = useState<Moved>();
  const [trouble, setTrouble] = useState("");
  const look =
    "inline-flex h-[20px] items-center rounded-[2px] border px-2 text-small leading-none font-normal whitespace-nowrap";
  if (mark.closed || !mark.mayClose) {
    return (
      <Tooltip.Root>
        <Tooltip.Trigger
          className={`${look} cursor-default ${mark.closed ? "border-transparent bg-film text-ink-2" : "border-edge bg-(--white) text-ink-2"}`}
          aria-label={`${names[mark.latch]} latch ${mark.closed ? `closed by ${mark.by}` : "open"}`}
        >
          {mark.closed && (
            <span aria-hidden className="mr-1">
              ✓
            </span>
          )}
          {names[mark.latch]}
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content className="float z-50 max-w-[260px] px-3 py-1.5 text-small" sideOffset={5}>
            {mark.closed
              ? `Closed by ${mark.by}, ${new Date(mark.at ?? "").toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}`
              : sentence(mark.whyNot)}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    );
  }
  return (
    <Popover.Root
      open={open}
      onOpenChange={(v) => {
        setOpen(v);
        setMoved(undefined);
        setTrouble("");
      }}
    >
      <Popover.Trigger className={`${look} border-marking bg-(--white) font-semibold text-marking hover:bg-marking-wash`}>
        Close {mark.latch}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className={`float z-50 p-3 ${moved ? "w-[400px]" : "w-[280px]"}`} align="end" sideOffset={5}>
          <p className="font-[650]">Close the {mark.latch} latch?</p>
          <p className="mt-1 text-small text-ink-2">
            {mark.latch === "author"
              ? "The draft goes on review. A later edit opens the latches it touches again."
              : "Your name goes on the sheet’s record. When the last latch closes, the revision never changes again."}
          </p>
          {trouble && (
            <p role="alert" className="mt-2 border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-small">
              {trouble}
            </p>
          )}
          {moved && <MovedOn moved={moved} what="The draft" />}
          <button
            type="button"
            className="button solid mt-2"
            onClick={async () => {
              try {
                await onClose(mark.latch, moved?.version);
                setOpen(false);
                say(`The ${mark.latch} latch is closed`);
              } catch (e) {
                const later = e instanceof Failure ? movedOn(e) : undefined;
                setMoved(later);
                setTrouble(later ? "" : e instanceof Failure ? e.message : "That did not work.");
                if (later) onRead().catch(() => undefined);
              }
            }}
          >
            {moved ? "I have seen this: close the latch" : "Close the latch"}
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const sentence = (s?: string) => (s ? `${s.charAt(0).toUpperCase()}${s.slice(1)}.` : "");
