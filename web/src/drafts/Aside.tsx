import type { Parcel } from "./outbox";

/** Aside tells of edits the server would not take: they are kept until the person decides. */
export function Aside({
  parcels,
  says,
  again,
  drop,
}: {
  parcels: readonly Parcel<unknown>[];
  /** says what an edit is, in a few words */
  says?: (edit: never) => string;
  again: (batch: string) => void;
  drop: (batch: string) => void;
}) {
  if (parcels.length === 0) return null;
  return (
    <ul role="alert" className="flex-none border-b border-clash bg-clash-wash">
      {parcels.map((p) => (
        <li key={p.batch} className="flex min-h-8 items-center gap-3 px-4 py-1">
          <span className="min-w-0 flex-1">
            <b className="font-[650]">An edit was not saved and is kept here.</b>{" "}
            {says && <span className="font-mono text-small">{p.edits.map((e) => says(e as never)).join(", ")}</span>} {p.why}
          </span>
          <button type="button" className="button slim" onClick={() => again(p.batch)}>
            Try again
          </button>
          <button type="button" className="button quiet slim" onClick={() => drop(p.batch)}>
            Remove it
          </button>
        </li>
      ))}
    </ul>
  );
}

/** savingText says how far what was typed has come. */
export function savingText(saving: string, waiting: number, savedAt: string | undefined, editable: boolean) {
  const edits = `${waiting} edit${waiting === 1 ? "" : "s"} waiting here`;
  if (saving === "out") return `Signed out, ${edits}`;
  if (saving === "offline") return `Offline, ${edits}`;
  if (waiting) return "Saving…";
  if (savedAt) return `Saved ${savedAt}`;
  return editable ? "Saved" : "";
}
