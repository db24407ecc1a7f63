import { Link } from "@tanstack/react-router";
import type { S } from "../../api/client";

/** Standing says how the engine stands at one end of a page, and which page is beside it. */
export function Standing({
  of,
  says,
  title,
  goes,
  pages,
}: {
  of: string;
  says?: string;
  title?: string;
  goes: string;
  pages: S["Beside"][];
}) {
  const page = pages.find((p) => p.title === title);
  const text = says ? says.charAt(0).toLowerCase() + says.slice(1) : "everything on and tight";
  return (
    <details className="flex-none border-y border-rule bg-film px-3 py-1 text-small text-ink-2 open:[&_.short]:hidden">
      <summary className="flex cursor-pointer gap-2">
        <b className="flex-none font-[650] text-ink">{of}</b>
        <span className="short min-w-0 flex-1 truncate">{text}</span>
        {title && (
          <span className="ml-auto flex-none">
            {goes}{" "}
            {page ? (
              <Link to="/revisions/$revision" params={{ revision: String(page.revision) }} className="link">
                {title}
              </Link>
            ) : (
              <b className="font-[650] text-clash">“{title}”, which is not there</b>
            )}
          </span>
        )}
      </summary>
      <p className="mt-0.5 text-ink">{text}</p>
      {page?.apart.map((a) => (
        <p key={a} className="font-[650] text-clash">
          {a.charAt(0).toUpperCase() + a.slice(1)}.
        </p>
      ))}
    </details>
  );
}
