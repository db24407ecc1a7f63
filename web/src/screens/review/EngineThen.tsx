import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { S } from "../../api/client";
import { enginesBeside } from "../../api/queries";
import { Drive } from "../../drawing/Drive";

/** EngineThen is the engine at the step that is met, as it was and as it is; its wheels and locks can be spoken of. */
export function EngineThen({
  data,
  against,
  step,
  onPick,
}: {
  data: S["Redlined"];
  against: number;
  step: string;
  onPick?: (ref: string, name: string) => void;
}) {
  const { data: e } = useQuery({
    ...enginesBeside(data.meta.id, against, step, data.meta.version),
    placeholderData: keepPreviousData,
  });
  if (!e) return <div className="mt-3 h-[170px]" />;
  const said = new Map<string, number>();
  for (const m of data.remarks)
    if (m.place === "drawing" && m.state === "open") said.set(m.part ?? "", (said.get(m.part ?? "") ?? 0) + 1);
  const two = !!e.now && !!e.was && e.differs.length > 0;
  const one = e.now ?? e.was;
  const at = (d: S["DrawnEngine"]) => (d.number ? `after step ${d.number}` : "at the end of the page");
  const picked = onPick && { said, onPick };
  return (
    <figure className="mt-3" aria-label="The engine at this step">
      {two && e.now && e.was ? (
        <div className="grid grid-cols-2 gap-x-3">
          <Picture d={e.was} name={`Was, ${at(e.was)}`} quiet />
          <Picture d={e.now} name={`Is, ${at(e.now)}`} picked={picked} />
        </div>
      ) : (
        one && (
          <Picture d={one} name={`The engine ${at(one)}${e.now ? "" : ", as it was"}`} picked={e.now ? picked : undefined} wide />
        )
      )}
      <figcaption className="mt-1 text-small">
        {two ? (
          <ul>
            {e.differs.map((d) => (
              <li key={d} className="py-px">
                <Difference says={d} />
              </li>
            ))}
          </ul>
        ) : e.now && e.was ? (
          <span className="text-ink-2">It stands as it did.</span>
        ) : null}
      </figcaption>
    </figure>
  );
}

function Picture({
  d,
  name,
  quiet,
  wide,
  picked,
}: {
  d: S["DrawnEngine"];
  name: string;
  quiet?: boolean;
  wide?: boolean;
  picked?: { said: Map<string, number>; onPick: (ref: string, name: string) => void };
}) {
  return (
    <div>
      <p className={`text-small ${quiet ? "text-ink-2" : ""}`}>{name}</p>
      <div className={`border bg-(--white) ${quiet ? "border-dashed border-ink-3" : "border-edge"}`}>
        <Drive
          drawing={d.drawing}
          state={d.state}
          labels={false}
          still
          picked={picked}
          className={wide ? "h-[190px]" : "h-[158px]"}
        />
      </div>
    </div>
  );
}

/** Difference is “crank pin: in, was out” with the thing before it quieter than what became of it. */
function Difference({ says }: { says: string }) {
  const i = says.indexOf(": ");
  const k = says.lastIndexOf(", was ");
  return (
    <>
      <span className="text-ink-2">{says.slice(0, i + 1)}</span> <b className="font-[600]">{says.slice(i + 2, k)}</b>
      <span className="text-ink-2">{says.slice(k)}</span>
    </>
  );
}
