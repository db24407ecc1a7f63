import type { S } from "../../api/client";

/** sentence ends what the server says with a stop, unless it ends with a mark of its own. */
export const sentence = (s: string) => (/[.?!]$/.test(s) ? s : `${s}.`);

/** Pieces shows a typed line with the words underlined that were not read. */
export function Pieces({ line }: { line: S["Reading"]["line"] }) {
  return (
    <span className="font-mono text-small break-words">
      {line.map((p, i) =>
        p.unread ? (
          <u key={i} data-unread className="decoration-clash decoration-wavy decoration-1 underline-offset-3">
            {p.text}
          </u>
        ) : (
          <span key={i}>{p.text}</span>
        ),
      )}
    </span>
  );
}
