import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { api, ask, type S } from "../api/client";
import { Cell } from "./Cell";

/** quiet is how long nobody has changed the page before it is drilled again, ms */
const quiet = 1500;

/** Drilled says in the title block how many mistakes are caught. It is worked out anew in the background once nobody has changed the page for a moment; until then the last answer stands, and says that it is older. */
export function Drilled({ meta, here }: { meta: S["RevisionMeta"] /** the drill is what is shown */; here: boolean }) {
  const id = meta.id;
  const old = !meta.drill || meta.drill.older === true;
  const [rested, setRested] = useState(0);
  useEffect(() => {
    if (!old) return;
    const t = setTimeout(() => setRested(meta.version), quiet);
    return () => clearTimeout(t);
  }, [meta.version, old]);
  const { data } = useQuery({
    queryKey: ["drill", id, "count", meta.version],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/drill/count", { params: { path: { revision: id } } })),
    enabled: old && rested === meta.version,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const d = data ?? meta.drill;
  if (!d) return <Cell name="Mistakes caught">…</Cell>;
  if (d.of === 0) return <Cell name="Mistakes caught">none to make</Cell>;
  const older = !data && old;
  const says = `${d.caught} of ${d.of} mistakes come to no harm${d.accepted ? `, ${d.accepted} are accepted` : ""}${
    d.missed ? `; ${d.missed} get through that the page needs to catch` : ""
  }${older ? ". The page is newer than this; it is being drilled" : ""}`;
  const figures = (
    <>
      <span className={older ? "text-ink-2" : d.missed ? "text-clash" : "text-held"}>{d.caught}</span>{" "}
      <span className="font-normal text-ink-2">of {d.of}</span>
    </>
  );
  return (
    <Cell name="Mistakes caught">
      {here ? (
        <span className="whitespace-nowrap" title={says}>
          {figures}
        </span>
      ) : (
        <Link
          to="/revisions/$revision/drill"
          params={{ revision: String(id) }}
          search={{}}
          className="whitespace-nowrap no-underline hover:underline"
          title={says}
        >
          {figures}
        </Link>
      )}
    </Cell>
  );
}
