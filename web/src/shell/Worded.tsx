import type { S } from "../api/client";

/** Worded is a sentence with what went out struck through and what came in underlined. */
export function Worded({ words }: { words: S["RedlineWord"][] }) {
  return (
    <>
      {words.map((w, i) => (
        <span key={i}>
          {i > 0 && " "}
          {w.is === "out" ? <del>{w.text}</del> : w.is === "in" ? <ins>{w.text}</ins> : w.text}
        </span>
      ))}
    </>
  );
}
