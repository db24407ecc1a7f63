import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import type { S } from "../../api/client";
import { codesThere, myDesk, whoAmI } from "../../api/queries";
import { day, today } from "../../shell/days";
import { Blockers, Latches, when } from "../../shell/rows";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useTitle } from "../../shell/useTitle";

type Task = S["DeskTask"];

/** what there is to do, as the first word of a line */
const verbs: Record<Task["kind"], string> = {
  settle: "Settle",
  answer: "Answer",
  note: "Field note",
  answered: "Answered",
  mend: "Mend",
  release: "Release",
  review: "Review",
  prove: "Prove again",
  house: "House rules",
  source: "Look up",
  sheet: "Engine sheet",
  write: "Write",
  "on review": "On review",
};

/** Desk is what waits for the person who looks, by the day it is due. */
export function Desk() {
  const { data, error, refetch } = useQuery({ ...myDesk, refetchInterval: 60_000 });
  const { data: me } = useQuery(whoAmI);
  useTitle("My desk");
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const groups = grouped(data.tasks);
  return (
    <main id="main" className="scroller h-full overflow-auto">
      <div className="mx-auto max-w-[1120px] px-6 py-6 max-md:px-3">
        <h1 className="text-title">{says(data.tasks)}</h1>
        {groups.map((g) => (
          <Group key={g.name} name={g.name} late={g.late}>
            {g.tasks.map((t) => (
              <TaskRow key={`${t.kind} ${t.revision ?? t.engine} ${t.step ?? ""} ${t.at}`} task={t} />
            ))}
          </Group>
        ))}
        {!data.tasks.some(waits) && me?.writes && <Begin />}
        {data.tasks.length === 0 && !me?.writes && (
          <p className="mt-2 max-w-[60ch] text-ink-2">
            Revisions sent on review turn up here when it is your latch that is open, and questions when they are for you.{" "}
            <Link to="/procedures" className="text-marking">
              Look through the procedures
            </Link>
            .
          </p>
        )}
      </div>
    </main>
  );
}

/** Begin is where somebody who writes begins when nothing waits for them: in a new house with an engine code. */
function Begin() {
  const { data: codes } = useQuery(codesThere);
  if (!codes) return null;
  const steps: [string, string, "/engines" | "/procedures"][] =
    codes.all === 0
      ? [
          [
            "Make an engine code",
            "Its sheet says what the engine has: wheels and belts, marks, locks, bolts. Start from a layout that is near.",
            "/engines",
          ],
          ["Read a latch file in", "One from another house brings its engine sheet along, as a draft.", "/procedures"],
        ]
      : codes.inUse === 0
        ? [
            [
              `Finish the sheet of ${codes.draft}`,
              "When nothing on it blocks, ask somebody else to look at it: an editor or a lead puts it into use. Then procedures are written on it.",
              "/engines",
            ],
          ]
        : [
            ["Start a procedure", "Type a line for each step; the engine runs along.", "/procedures"],
            ["Go on with a draft", "All drafts, and what blocks them, are in the list.", "/procedures"],
          ];
  return (
    <section className="mt-5 max-w-[68ch]" aria-label="Where to begin">
      <h2 className="text-body">Where to begin</h2>
      <ul className="mt-1">
        {steps.map(([name, why, to]) => (
          <li key={name} className="border-t border-rule py-2">
            <Link to={to} className="font-[650] text-marking">
              {name}
            </Link>
            <span className="block text-ink-2">{why}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

const waits = (t: Task) => !!t.waits;

/** says answers the first question: what now? */
function says(tasks: Task[]) {
  const n = tasks.filter(waits).length;
  const late = tasks.filter((t) => waits(t) && t.due && t.due < today()).length;
  if (n === 0) return tasks.length > 0 ? "Nothing waits for you" : "Your desk is clear";
  const things = n === 1 ? "One thing waits for you" : `${n} things wait for you`;
  return late > 0 ? `${things}, ${late === n ? (n === 1 ? "and is late" : "all late") : `${late} late`}` : things;
}

/** grouped puts tasks under the days they are due, those that only stand there last. */
function grouped(tasks: Task[]) {
  const now = today();
  const week = new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 10);
  const place = (t: Task) =>
    !waits(t) && !t.due
      ? "On the desk"
      : !t.due
        ? "Without a day"
        : t.due < now
          ? "Late"
          : t.due === now
            ? "Today"
            : t.due <= week
              ? "This week"
              : "Later";
  return ["Late", "Today", "This week", "Later", "Without a day", "On the desk"]
    .map((name) => ({ name, late: name === "Late", tasks: tasks.filter((t) => place(t) === name) }))
    .filter((g) => g.tasks.length > 0);
}

function Group({ name, late, children }: { name: string; late: boolean; children: ReactNode }) {
  return (
    <section className="mt-6">
      <h2 className={`mb-1 text-body ${late ? "text-clash" : ""}`}>{name}</h2>
      <div className="scroll-wide">
        <table className="list-table min-w-[900px] table-fixed" aria-label={name}>
          <colgroup>
            <col className="w-[96px]" />
            <col className="w-[88px]" />
            <col />
            <col className="w-[300px]" />
            <col className="w-[180px]" />
            <col className="w-[92px]" />
          </colgroup>
          <thead className="sr-only">
            <tr>
              {["What to do", "Code", "Where", "What it is", "How it stands", "Due or changed"].map((h) => (
                <th key={h} scope="col">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>{children}</tbody>
        </table>
      </div>
    </section>
  );
}

function TaskRow({ task: t }: { task: Task }) {
  const late = !!t.due && t.due < today();
  return (
    <tr data-task={t.kind}>
      <td className={waits(t) ? "font-[650]" : "text-ink-2"}>{verbs[t.kind]}</td>
      <td className="text-ink-2">{t.engine}</td>
      <th scope="row">
        <Where task={t} />
      </th>
      <td className="truncate" title={t.says} colSpan={t.row ? 1 : 2}>
        {["answer", "settle", "note", "answered"].includes(t.kind) && <span className="text-ink-2">{t.by}: </span>}
        {t.says}
      </td>
      {t.row && (
        <td>
          {["review", "release", "on review"].includes(t.kind) ? (
            <Latches marks={t.row.latches} />
          ) : (
            <Blockers blocking={t.row.blocking} findings={t.row.findings} free={t.row.free} missed={t.row.missed} />
          )}
        </td>
      )}
      <td className={`num ${late ? "font-semibold text-clash" : "text-ink-2"}`}>{t.due ? day(t.due) : when(t.at)}</td>
    </tr>
  );
}

/** Where leads to the place at which it is done. */
function Where({ task: t }: { task: Task }) {
  if (t.kind === "source")
    return (
      <Link to="/engines/$code" params={{ code: t.engine }} search={{ tab: "limits" }} className="row-link">
        {t.title}
      </Link>
    );
  if (t.kind === "sheet")
    return (
      <Link to={waits(t) ? "/engines/$code/review" : "/engines/$code"} params={{ code: t.engine }} className="row-link">
        {t.title}
      </Link>
    );
  const params = { revision: String(t.revision) };
  const name = (
    <>
      {t.title}
      {t.number ? <span className="font-normal text-ink-2"> {t.number}</span> : null}
    </>
  );
  if (t.kind === "note" || t.kind === "answered")
    return (
      <Link to="/revisions/$revision/sheet" params={params} hash="field-notes" className="row-link">
        {name}
      </Link>
    );
  if (t.kind === "write" || t.kind === "prove" || t.kind === "house")
    return (
      <Link to="/revisions/$revision" params={params} className="row-link">
        {name}
      </Link>
    );
  return (
    <Link to="/revisions/$revision/review" params={params} search={t.step ? { step: t.step } : {}} className="row-link">
      {name}
    </Link>
  );
}
