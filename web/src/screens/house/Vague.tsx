import { type FormEvent, useState } from "react";

/** Vague is the list of words and phrases that are not written. */
export function Vague({
  words,
  suggested,
  may,
  onSet,
}: {
  words: string[];
  suggested: string[];
  may: boolean;
  onSet: (v: string[]) => void;
}) {
  const [text, setText] = useState("");
  const has = (w: string) => words.some((v) => v.toLowerCase() === w.toLowerCase());
  const add = (w: string) => {
    const all = w
      .split(/[,;\n]/)
      .map((v) => v.trim())
      .filter((v, i, l) => v && !has(v) && l.indexOf(v) === i);
    if (all.length) onSet([...words, ...all]);
  };
  const submit = (e: FormEvent) => {
    e.preventDefault();
    add(text);
    setText("");
  };
  const left = suggested.filter((w) => !has(w));
  return (
    <>
      <ul className="flex flex-wrap gap-1.5" aria-label="Words that are not written">
        {words.map((w) => (
          <li key={w} className="house-word">
            {w}
            {may && (
              <button type="button" aria-label={`Let “${w}” be written`} onClick={() => onSet(words.filter((v) => v !== w))}>
                ×
              </button>
            )}
          </li>
        ))}
        {words.length === 0 && <li className="text-ink-2">None. Every word may be written.</li>}
      </ul>
      {may && (
        <form className="mt-2 flex gap-2" onSubmit={submit}>
          <input
            className="field max-w-[280px]"
            aria-label="A word or phrase"
            placeholder="A word or phrase; more with commas"
            maxLength={400}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
          <button type="submit" className="button" disabled={!text.trim()}>
            Put it on the list
          </button>
        </form>
      )}
      {may && left.length > 0 && (
        <p className="mt-2 flex flex-wrap items-baseline gap-x-1 gap-y-0.5 text-small text-ink-2">
          Other houses do not write:
          {left.map((w) => (
            <button key={w} type="button" className="button quiet slim" onClick={() => add(w)}>
              {w}
            </button>
          ))}
        </p>
      )}
    </>
  );
}
