import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Link, useNavigate, useParams } from "@tanstack/react-router";
import type { S } from "../../api/client";
import { versions, whoAmI } from "../../api/queries";
import { useAddress } from "../../shell/address";
import { NewDraft } from "../../shell/NewDraft";
import { stateWord } from "../../shell/states";
import { TitleBlock } from "../../shell/TitleBlock";
import { Trouble, Waiting } from "../../shell/Trouble";
import { useClose } from "../../shell/useClose";
import { useTitle } from "../../shell/useTitle";

type Version = S["Version"];

const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "long", year: "numeric" });
const moment = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});
const on = (iso: string) => day.format(new Date(iso));

/** Versions is the timeline of a procedure: every revision, from and until when it held, who closed what, and what changed. */
export function Versions() {
  const id = Number(useParams({ from: "/inside/revisions/$revision/versions" }).revision);
  const [asked, setAsked] = useAddress<string>("on", "");
  const { data, error, refetch } = useQuery({ ...versions(id, asked), placeholderData: keepPreviousData });
  const { data: me } = useQuery(whoAmI);
  const close = useClose(id, data?.meta.version);
  useTitle(data && `Versions, ${data.meta.title}, ${data.meta.engine}`);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  const held = data.versions.find((v) => v.id === data.held);
  const released = data.versions.filter((v) => v.from).length;
  return (
    <main id="main" className="flex h-full flex-col">
      <TitleBlock
        meta={data.meta}
        onClose={close}
        onRead={refetch}
        on="versions"
        writes={!!me?.writes}
        right={
          me?.works && (
            <Link to="/record" search={{ procedure: data.meta.procedure }} className="button quiet slim no-underline">
              What was done
            </Link>
          )
        }
      />
      <div className="scroller min-h-0 flex-1 overflow-auto">
        <div className="mx-auto max-w-[980px] px-6 py-5 max-md:px-3">
          <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
            <h2 className="text-title">
              {released === 0
                ? "Never released yet"
                : `${released} release${released === 1 ? "" : "s"}${data.versions.length > released ? `, ${data.versions.length - released} being written` : ""}`}
            </h2>
            <label className="ml-auto flex items-center gap-2 text-small text-ink-2">
              What held on
              <input type="date" className="field !w-[150px]" value={asked} onChange={(e) => setAsked(e.target.value)} />
            </label>
          </div>
          <p role="status" className="mt-1 min-h-5 text-small">
            {asked &&
              (held ? (
                <>
                  At the end of that day <b className="font-[650]">revision {held.number}</b> held.
                </>
              ) : (
                <span className="text-clash">No revision held on that day.</span>
              ))}
          </p>
          <ol aria-label="Revisions, the latest first" className="mt-3">
            {data.versions.map((v) => (
              <Item key={v.id} v={v} meta={data.meta} writes={!!me?.writes} held={v.id === data.held} before={data.versions} />
            ))}
          </ol>
        </div>
      </div>
    </main>
  );
}

function Item({
  v,
  meta,
  writes,
  held,
  before,
}: {
  v: Version;
  meta: S["RevisionMeta"];
  writes: boolean;
  held: boolean;
  before: Version[];
}) {
  const navigate = useNavigate();
  const against = before.find((o) => o.id === v.against);
  return (
    <li data-held={held} className="version grid grid-cols-[26px_minmax(0,1fr)] gap-x-3">
      <span aria-hidden className="version-line">
        <span className={`version-dot ${v.from ? "bg-marking" : "bg-(--white)"}`} />
      </span>
      <div className={`mb-2 border-b border-rule pb-3 ${held ? "bg-marking-wash px-3 pt-1.5" : ""}`}>
        <div className="flex flex-wrap items-baseline gap-x-3">
          <h3 className="text-lead">
            <Link
              to="/revisions/$revision"
              params={{ revision: String(v.id) }}
              activeOptions={{ exact: true }}
              className="no-underline hover:underline"
            >
              Revision {v.number}
            </Link>{" "}
            <span className="font-normal text-ink-2">
              {stateWord(v.state)}
              {v.id === meta.id && ", this one"}
            </span>
          </h3>
          <span className="text-small">
            {v.from
              ? v.until
                ? `held from ${on(v.from)} until ${on(v.until)}`
                : `holds since ${on(v.from)}`
              : `${v.by}, ${on(v.changedAt)}`}
          </span>
          <span className="ml-auto text-small text-ink-2">
            {v.steps} step{v.steps === 1 ? "" : "s"}
          </span>
        </div>
        {v.reason && <p className="mt-0.5">{v.reason}</p>}
        {v.withdrawn && (
          <p className="mt-0.5 text-clash">
            Withdrawn by {v.withdrawn.by}: {v.withdrawn.reason}
          </p>
        )}
        <p className="mt-0.5 text-small text-ink-2">
          {against ? (
            <Link
              to="/revisions/$revision/review"
              params={{ revision: String(v.id) }}
              search={{ against: against.id }}
              className="text-marking underline"
            >
              {v.counted ? `Changed: ${v.counted}` : "Nothing changed"}, since revision {against.number}
            </Link>
          ) : (
            "The first that was released."
          )}
        </p>
        {v.closings.length > 0 && (
          <ul className="mt-1 flex flex-wrap gap-x-5 gap-y-0.5 text-small text-ink-2">
            {v.closings.map((c) => (
              <li key={c.latch}>
                <span className="text-ink">{c.latch}</span> {c.by}, {moment.format(new Date(c.at))}
              </li>
            ))}
          </ul>
        )}
        {writes && v.from && (
          <p className="mt-1.5 flex gap-2">
            <NewDraft
              meta={meta}
              from={v}
              onDraft={(id) => navigate({ to: "/revisions/$revision", params: { revision: String(id) } })}
            />
            <Link to="/revisions/$revision/copy" params={{ revision: String(v.id) }} className="link self-center text-small">
              Copy to another engine code…
            </Link>
          </p>
        )}
      </div>
    </li>
  );
}
