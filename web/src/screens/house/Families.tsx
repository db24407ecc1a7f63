import { useState } from "react";
import type { S } from "../../api/client";
import { say } from "../../shell/toast";
import { type FamilyRule, familyOf, type Rules, sizesIn, withFamily } from "./rules";

/** Families are the kinds of mistake: whether they are made, how much of each a page has to catch, how often and how large they are. */
export function Families({
  all,
  rules,
  holds,
  may,
  onChange,
}: {
  all: S["HouseFamily"][];
  rules: Rules;
  holds: Rules;
  may: boolean;
  onChange: (r: Rules) => void;
}) {
  return (
    <div className="overflow-x-auto">
      <table className="house-table house-families">
        <thead>
          <tr>
            <th scope="col">Made</th>
            <th scope="col">Kind of mistake</th>
            <th scope="col" title="Which share of them a page has to catch; 0 where they are only counted">
              At least caught
            </th>
            <th scope="col" title="From 1, hardly ever, to 10, all the time">
              Occurrence
            </th>
            <th scope="col">Sizes</th>
          </tr>
        </thead>
        <tbody>
          {all.map((f) => {
            const is = familyOf(rules, f);
            const was = familyOf(holds, f);
            const set = (v: Partial<FamilyRule>) => onChange(withFamily(rules, f, v));
            return (
              <tr
                key={f.id}
                data-changed={JSON.stringify(is) !== JSON.stringify(was) || undefined}
                className={is.off ? "text-ink-3" : undefined}
              >
                <td>
                  <input
                    type="checkbox"
                    className="tick"
                    aria-label={`${f.name}: made`}
                    checked={!is.off}
                    disabled={!may}
                    onChange={(e) => set({ off: !e.target.checked })}
                  />
                </td>
                <th scope="row">
                  {f.name}
                  <span className="block text-small font-normal text-ink-2">{f.doc}</span>
                </th>
                <td className="whitespace-nowrap">
                  <Typed
                    name={`${f.name}: at least caught, percent`}
                    value={String(is.least)}
                    disabled={!may || is.off}
                    wide="w-[52px]"
                    read={(t) => {
                      const n = Number(t);
                      return Number.isInteger(n) && n >= 0 && n <= 100
                        ? { least: n }
                        : "A share is a whole number from 0 to 100 percent.";
                    }}
                    onSet={set}
                  />{" "}
                  %
                </td>
                <td>
                  <select
                    className="field slim w-[60px]"
                    aria-label={`${f.name}: occurrence`}
                    value={is.occurrence}
                    disabled={!may || is.off}
                    onChange={(e) => set({ occurrence: Number(e.target.value) })}
                  >
                    {[1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((n) => (
                      <option key={n}>{n}</option>
                    ))}
                  </select>
                </td>
                <td className="whitespace-nowrap">
                  {f.sizes.length > 0 && (
                    <>
                      <Typed
                        name={`${f.name}: sizes`}
                        value={is.sizes.join(", ")}
                        disabled={!may || is.off}
                        wide="w-[74px]"
                        read={(t) => {
                          const n = sizesIn(t);
                          return n ? { sizes: n } : "Sizes are numbers with commas between them, such as 1, 2.";
                        }}
                        onSet={set}
                      />{" "}
                      {f.unit}
                    </>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Typed is a field that counts once it is left, and says what is wrong where it is nothing. */
function Typed({
  name,
  value,
  disabled,
  wide,
  read,
  onSet,
}: {
  name: string;
  value: string;
  disabled: boolean;
  wide: string;
  read: (text: string) => Partial<FamilyRule> | string;
  onSet: (v: Partial<FamilyRule>) => void;
}) {
  const [text, setText] = useState<string>();
  return (
    <input
      className={`field slim inline-block ${wide} text-right font-mono`}
      aria-label={name}
      disabled={disabled}
      value={text ?? value}
      onChange={(e) => setText(e.target.value)}
      onBlur={() => {
        if (text !== undefined && text !== value) {
          const v = read(text.trim());
          if (typeof v === "string") say(v);
          else onSet(v);
        }
        setText(undefined);
      }}
      onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
    />
  );
}
