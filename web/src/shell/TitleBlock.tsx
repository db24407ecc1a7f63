import { Link, useNavigate } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { lazy, type ReactNode, Suspense } from "react";
import type { S } from "../api/client";
import { Cell } from "./Cell";
import { Drilled } from "./Drilled";
import { LatchButton } from "./LatchButton";
import { NewDraft } from "./NewDraft";
import { when } from "./rows";
import { isOpen, stateWord } from "./states";

const Release = lazy(() => import("./Release"));
const Withdraw = lazy(() => import("./Withdraw"));

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
  on: "write" | "turns" | "drill" | "review" | "versions" | "sheet";
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
    <div className="leaves no-print flex-none">
      <div className="grid grid-cols-[auto_minmax(120px,1fr)_auto_auto_auto_auto_auto] border-b border-ink bg-(--white) max-lg:flex max-lg:flex-wrap max-lg:[&>*:nth-child(2)]:flex-1 max-lg:[&>*:nth-child(2)]:basis-[230px] max-sm:[&>*:nth-child(2)]:basis-[calc(100%-110px)]">
        <Cell name="Engine code">
          <Link to="/engines/$code" params={{ code: meta.engine }} className="no-underline hover:underline">
            {meta.engine}
          </Link>
        </Cell>
        <Cell name="Procedure">
          <h1 title={meta.title} className="truncate text-lead max-lg:whitespace-normal">
            {meta.title}
          </h1>
        </Cell>
        <Cell name="Revision">
          <DropdownMenu.Root>
            <DropdownMenu.Trigger
              className="whitespace-nowrap hover:underline"
              aria-label={`Revision ${meta.number} ${meta.ready ? "ready" : stateWord(meta.state)}, other revisions`}
            >
              {meta.number} <span className="font-normal text-ink-2">{meta.ready ? "ready" : stateWord(meta.state)}</span>{" "}
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
                    <b className="font-[650]">{s.number}</b> {stateWord(s.state)}{" "}
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
        <Drilled meta={meta} here={on === "drill"} />
        <Cell name={isOpen(meta.state) && !meta.ready ? "Latches to close" : "Latches closed"}>
          <span className="flex gap-1.5 pt-px">
            {meta.latches.map((l) => (
              <LatchButton key={l.latch} meta={meta} mark={l} writes={writes} onClose={onClose} onRead={onRead} />
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
          to="/revisions/$revision/drill"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "drill"}
        >
          Mistake drill
        </Link>
        <Link
          to="/revisions/$revision/review"
          params={{ revision: String(meta.id) }}
          activeOptions={{ exact: true }}
          className="tab"
          data-on={on === "review"}
        >
          {isOpen(meta.state) ? "Review" : "Redline"}
          {meta.questions ? <span className="ml-1.5 text-small text-marking">{meta.questions}</span> : null}
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
          {meta.ready && (
            <Suspense>
              <Release meta={meta} onDone={onRead} />
            </Suspense>
          )}
          {meta.mayWithdraw && (
            <Suspense>
              <Withdraw meta={meta} onDone={onRead} />
            </Suspense>
          )}
          {(meta.state === "latched" || meta.state === "withdrawn") && writes && <NewDraft meta={meta} onDraft={go} />}
        </span>
      </div>
      {meta.withdrawn && (
        <p role="alert" className="border-b border-clash bg-clash-wash px-4 py-1.5">
          <b className="font-[650] text-clash">Withdrawn</b> by {meta.withdrawn.by}, {when(meta.withdrawn.at)}:{" "}
          {meta.withdrawn.reason}
        </p>
      )}
    </div>
  );
}

const views = {
  write: "/revisions/$revision",
  turns: "/revisions/$revision/turns",
  drill: "/revisions/$revision/drill",
  review: "/revisions/$revision/review",
  versions: "/revisions/$revision/versions",
  sheet: "/revisions/$revision/sheet",
} as const;
