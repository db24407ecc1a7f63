import { useQuery } from "@tanstack/react-query";
import { Link, useParams, useSearch } from "@tanstack/react-router";
import { useCallback, useMemo, useState } from "react";
import { fieldNotes, record, sheet, whoAmI } from "../../api/queries";
import { useActions } from "../../shell/actions";
import { stateWord } from "../../shell/states";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useClose } from "../../shell/useClose";
import { useLive } from "../../shell/useLive";
import { FieldNotes, NewFieldNote } from "./FieldNotes";
import { Across, boxOf, Paper } from "./Paper";
import { PickList } from "./PickList";
import { usePrinted } from "./usePrinted";
import { useTicks } from "./useTicks";

/** Sheet is what a technician reads and prints. */
export function Sheet() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/sheet" }).revision);
  const picks = useSearch({ from: "/inside/revisions/$revision/sheet" }).only === "picks";
  const { data: s, error, refetch } = useQuery(sheet(id));
  const { data: me } = useQuery(whoAmI);
  const { data: done } = useQuery(record(id));
  const released = !!s && ["latched", "superseded", "withdrawn"].includes(s.meta.state);
  const { data: said, refetch: hear } = useQuery({ ...fieldNotes(id), enabled: released });
  const [noting, setNoting] = useState<string>();
  const note = released ? setNoting : undefined;
  useLive(
    id,
    useCallback(() => {
      refetch();
      if (released) hear();
    }, [refetch, hear, released]),
  );
  const ticks = useTicks(id);
  const steps = s?.phases.reduce((n, p) => n + p.steps.length, 0) ?? 0;
  const ticked = s?.phases.reduce((n, p) => n + p.steps.filter((t) => ticks.done.has(boxOf(t))).length, 0) ?? 0;
  const notesAt = (step: string) => said?.filter((n) => n.step === step && n.revision === id).length ?? 0;
  const close = useClose(id, s?.meta.version);
  const actions = useMemo(
    () => [
      { name: "Print the sheet", keys: "Ctrl P", run: () => window.print() },
      { name: "Export as a latch file", run: () => window.location.assign(`/api/revisions/${id}/export`) },
    ],
    [id],
  );
  useActions(actions);
  usePrinted(s?.meta.engine, s?.meta.title, s && `Revision ${s.meta.number}, ${stateWord(s.meta.state)}`);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!s) return <Waiting />;
  return (
    <main id="main" className="screen flex h-full flex-col">
      <TitleBlock
        meta={s.meta}
        onClose={close}
        onRead={refetch}
        on="sheet"
        writes={!!me?.writes}
        right={
          <>
            {ticks.done.size > 0 && !picks && (
              <span className="mr-1 text-small text-ink-2" aria-live="polite">
                {ticked} of {steps} done{" "}
                <button type="button" className="link" onClick={ticks.clear}>
                  untick all
                </button>
              </span>
            )}
            <Link
              to="/revisions/$revision/sheet"
              params={{ revision: String(id) }}
              search={picks ? {} : { only: "picks" }}
              className="button quiet slim no-underline"
            >
              {picks ? "Whole sheet" : "Pick list"}
            </Link>
            <Link to="/revisions/$revision/torques" params={{ revision: String(id) }} className="button quiet slim no-underline">
              Torques
            </Link>
            <a className="button quiet slim no-underline" href={`/api/revisions/${id}/export`}>
              Export
            </a>
            {released && (
              <button type="button" className="button quiet slim" onClick={() => setNoting("")}>
                Field note…
              </button>
            )}
            <button type="button" className="button slim" onClick={() => window.print()}>
              Print
            </button>
          </>
        }
      />
      {noting !== undefined && (
        <NewFieldNote
          sheet={s}
          step={noting}
          onClose={() => setNoting(undefined)}
          onSaid={() => {
            setNoting(undefined);
            hear();
          }}
        />
      )}
      <div className="scroller min-h-0 flex-1 overflow-auto bg-film">
        <article className="paper border-x border-rule px-11 py-8 text-body">
          {s.meta.withdrawn && <Across />}
          {picks ? <PickList s={s} ticks={ticks} /> : <Paper s={s} ticks={ticks} onNote={note} notesAt={notesAt} />}
          {!picks && said && said.length > 0 && <FieldNotes notes={said} sheet={s} onDone={hear} />}
        </article>
        <details className="no-print mx-auto max-w-[880px] border-x border-t border-rule bg-sheet px-11 py-4">
          <summary className="cursor-pointer font-[650]">What was done to this revision</summary>
          <table className="mt-2 w-full">
            <tbody>
              {done?.map((e) => (
                <tr key={e.seq} className="border-b border-rule">
                  <td className="py-1 pr-3 text-ink-2">
                    {new Date(e.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "medium" })}
                  </td>
                  <td className="pr-3">{e.by}</td>
                  <td className="pr-3">{e.what}</td>
                  <td className="font-mono text-fine text-ink-2">{e.hash.slice(0, 12)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      </div>
    </main>
  );
}
