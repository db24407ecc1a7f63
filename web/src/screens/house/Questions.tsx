import type { S } from "../../api/client";
import type { Rules } from "./rules";

/** Questions are what practitioners answer in more ways than one, each school beside the others with its reason. */
export function Questions({
  all,
  rules,
  holds,
  may,
  onSet,
}: {
  all: S["HouseQuestion"][];
  rules: Rules;
  holds: Rules;
  may: boolean;
  onSet: (name: string, v: string) => void;
}) {
  return (
    <>
      {all.map((q) => (
        <fieldset key={q.id} className="house-question" data-changed={rules[q.id] !== holds[q.id] || undefined}>
          <legend>{q.asks}</legend>
          <div className="house-choices">
            {q.choices.map((c) => (
              <label key={c.id} className="house-choice" data-on={rules[q.id] === c.id || undefined}>
                <input
                  type="radio"
                  name={q.id}
                  className="sr-only"
                  checked={rules[q.id] === c.id}
                  disabled={!may}
                  onChange={() => onSet(q.id, c.id)}
                />
                <b>{c.id}</b>
                {holds[q.id] === c.id && rules[q.id] !== c.id && <span className="ml-1 text-fine font-normal">holds now</span>}
                <span>{c.why}</span>
              </label>
            ))}
          </div>
        </fieldset>
      ))}
    </>
  );
}
