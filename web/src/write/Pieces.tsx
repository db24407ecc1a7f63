import type { S } from "../api/client";

/** Pieces shows a typed line with the words underlined that were not read. */
export function Pieces({ line }: { line: S["Reading"]["line"] }) {
  return (
    <span className="font-mono text-[12px] break-words">
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
