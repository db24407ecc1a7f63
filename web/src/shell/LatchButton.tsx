import { Link } from "@tanstack/react-router";
import { Popover } from "radix-ui";
import { lazy, Suspense, useState } from "react";
import { Failure, type S } from "../api/client";
import { day, late } from "./days";
import { type Moved, MovedOn, movedOn } from "./MovedOn";
import { say } from "./toast";
import { Wrong } from "./Wrong";

const Arrangement = lazy(() => import("./Arrangement"));

const names: Record<string, string> = { author: "Author", technical: "Technical", editorial: "Editorial", bench: "Bench" };

/** LatchButton is one latch in the title block: whether it is closed, what it still wants, by when, by whom, and the way to close it. */
export function LatchButton({
  meta,
  mark,
  writes,
  onClose,
  onRead,
}: {
  meta: S["RevisionMeta"];
  mark: S["LatchMark"];
  writes: boolean;
  onClose: (latch: string, seen?: number) => Promise<unknown>;
  onRead: () => Promise<unknown>;
}) {
  const [open, setOpen] = useState(false);
  const [moved, setMoved] = useState<Moved>();
  const [trouble, setTrouble] = useState("");
  const look =
    "inline-flex h-[20px] items-center rounded-[2px] border px-2 text-small leading-none font-normal whitespace-nowrap";
  const how = mark.closed
    ? "border-transparent bg-film text-ink-2"
    : mark.mayClose
      ? "border-marking bg-(--white) font-semibold text-marking hover:bg-marking-wash"
      : "border-edge bg-(--white) text-ink-2 hover:border-ink-2";
  return (
    <Popover.Root
      open={open}
      onOpenChange={(v) => {
        setOpen(v);
        setMoved(undefined);
        setTrouble("");
      }}
    >
      <Popover.Trigger className={`${look} ${how}`} aria-label={mark.mayClose ? undefined : spoken(mark)}>
        {mark.closed && (
          <span aria-hidden className="mr-1">
            ✓
          </span>
        )}
        {mark.mayClose ? `Close ${mark.latch}` : names[mark.latch]}
        {mark.due && !mark.closed && late(mark.due) && (
          <span className="ml-0.5 whitespace-pre font-semibold text-clash" title={`It was to close by ${day(mark.due)}`}>
            {" late"}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className={`float z-50 p-3 ${moved ? "w-[400px]" : "w-[300px]"}`} align="end" sideOffset={5}>
          {mark.closed ? (
            <p className="text-small">
              Closed by {mark.by}, {new Date(mark.at ?? "").toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
            </p>
          ) : mark.mayClose ? (
            <>
              <p className="font-[650]">Close the {mark.latch} latch?</p>
              <p className="mt-1 text-small text-ink-2">
                {mark.latch === "author"
                  ? "You have read all of it as it stands. The draft goes on review; a later edit opens the latches it touches again."
                  : "You have read all of it as it stands. Your name goes on the sheet’s record. Once every latch is closed a lead releases it, and it never changes again."}
              </p>
            </>
          ) : (
            <Wants meta={meta} mark={mark} />
          )}
          <Wrong says={trouble} className="mt-2" />
          {moved && <MovedOn moved={moved} what="The draft" />}
          {mark.mayClose && (
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
          )}
          {!mark.closed && ["draft", "on review"].includes(meta.state) && (
            <Suspense>
              <Arrangement meta={meta} mark={mark} writes={writes} onTrouble={setTrouble} />
            </Suspense>
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** spoken is a latch for those who hear it, beginning with what stands on it. */
function spoken(mark: S["LatchMark"]) {
  if (mark.closed) return `${names[mark.latch]} latch closed by ${mark.by}`;
  return mark.due && late(mark.due)
    ? `${names[mark.latch]} late, the latch was to close by ${day(mark.due)}`
    : `${names[mark.latch]} latch open`;
}

const sentence = (s?: string) => (s ? `${s.charAt(0).toUpperCase()}${s.slice(1)}.` : "");

/** Wants says what keeps a latch open: for somebody who may close it, all of it. */
function Wants({ meta, mark }: { meta: S["RevisionMeta"]; mark: S["LatchMark"] }) {
  const left = mark.wants?.filter((w) => w.left > 0) ?? [];
  if (left.length === 0) return <p className="text-small">{sentence(mark.whyNot)}</p>;
  return (
    <>
      <p className="font-[650]">Before the {mark.latch} latch closes</p>
      <ul className="mt-1 text-small">
        {left.map((w) => (
          <li key={w.what} className="flex gap-2 py-0.5">
            <span aria-hidden className="text-clash">
              ✕
            </span>
            {w.why}
          </li>
        ))}
      </ul>
      <Link
        activeOptions={{ exact: true }}
        to={left.every((w) => w.what === "findings") ? "/revisions/$revision" : "/revisions/$revision/review"}
        params={{ revision: String(meta.id) }}
        className="button mt-2 no-underline"
      >
        {left.every((w) => w.what === "findings") ? "To the findings" : "To the review"}
      </Link>
    </>
  );
}
