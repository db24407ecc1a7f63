import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { Command, defaultFilter } from "cmdk";
import { Dialog } from "radix-ui";
import { useDeferredValue, useState } from "react";
import { someCodes, someProcedures, whoAmI } from "../api/queries";
import { useOffered } from "./actions";
import { stateWord } from "./states";

/** elsewhere marks what is offered for any words, behind all that has them in its name */
const elsewhere = "elsewhere:";
const fits: typeof defaultFilter = (value, search, keywords) =>
  value.startsWith(elsewhere) ? 1e-9 : (defaultFilter(value, search, keywords) ?? 0);

/** FindDo finds a procedure, an engine or a step, or does what the screen can do. */
export function FindDo({ open, onOpenChange }: { open: boolean; onOpenChange: (v: boolean) => void }) {
  const navigate = useNavigate();
  const offered = useOffered();
  const [words, setWords] = useState("");
  const asked = useDeferredValue(words.trim());
  const { data: ps } = useQuery({ ...someProcedures(asked), enabled: open, placeholderData: keepPreviousData });
  const { data: es } = useQuery({
    ...someCodes(asked.replace(/^engines?\s+/i, ""), undefined, 20),
    enabled: open,
    placeholderData: keepPreviousData,
  });
  const { data: me } = useQuery(whoAmI);
  const go = (f: () => void) => () => {
    onOpenChange(false);
    setWords("");
    setTimeout(f, 0);
  };
  const groups = [...new Set(offered.map((a) => a.group ?? "Do"))];
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog !p-0" aria-describedby={undefined}>
          <Dialog.Title className="sr-only">Find or do</Dialog.Title>
          <Command label="Find or do" loop filter={fits}>
            <Command.Input
              autoFocus
              value={words}
              onValueChange={setWords}
              placeholder="A procedure, an engine, a step, or something to do"
              className="w-full border-b border-rule bg-transparent px-4 py-3 text-lead outline-none"
            />
            <Command.List className="max-h-[54vh] overflow-auto py-1">
              <Command.Empty className="px-4 py-6 text-ink-2">Nothing has that name. Try a part of it.</Command.Empty>
              {groups.map((g) => (
                <Command.Group key={g} heading={g} className={heading}>
                  {offered
                    .filter((a) => (a.group ?? "Do") === g)
                    .map((a, i) => (
                      <Command.Item key={`${a.name}${i}`} value={`${a.name} ${g}${i}`} onSelect={go(a.run)} className={item}>
                        <span className="min-w-0 flex-1 truncate">{a.name}</span>
                        {a.keys && <span className="key">{a.keys}</span>}
                      </Command.Item>
                    ))}
                </Command.Group>
              ))}
              <Command.Group heading="Procedures" className={heading}>
                {ps?.rows.map((p) => (
                  <Command.Item
                    key={p.revision}
                    value={`${p.engine} ${p.title} ${p.revision} ${stateWord(p.state)} ${p.changedBy}`}
                    onSelect={go(() => navigate({ to: "/revisions/$revision", params: { revision: String(p.revision) } }))}
                    className={item}
                  >
                    <span className="w-[72px] text-ink-2">{p.engine}</span>
                    <span className="min-w-0 flex-1 truncate">{p.title}</span>
                    <span className="text-ink-2">
                      {p.number} {stateWord(p.state)}
                    </span>
                  </Command.Item>
                ))}
              </Command.Group>
              <Command.Group heading="Engines" className={heading}>
                {es?.rows.map((e) => (
                  <Command.Item
                    key={e.code}
                    value={`engine ${e.code} ${e.maker} ${e.use} ${e.drive}`}
                    onSelect={go(() => navigate({ to: "/engines/$code", params: { code: e.code } }))}
                    className={item}
                  >
                    {e.code}
                    <span className="text-ink-2">{e.use}</span>
                  </Command.Item>
                ))}
              </Command.Group>
              {me?.works && (
                <Command.Group heading="The house" className={heading}>
                  <Command.Item
                    value="house rules schools limits severities"
                    onSelect={go(() => navigate({ to: "/house" }))}
                    className={item}
                  >
                    House rules
                  </Command.Item>
                </Command.Group>
              )}
              {asked && (
                <Command.Group heading="Everywhere" className={heading}>
                  <Command.Item
                    value={`${elsewhere} used`}
                    onSelect={go(() => navigate({ to: "/where", search: { q: asked } }))}
                    className={item}
                  >
                    <span className="min-w-0 flex-1 truncate">Where “{asked}” is used</span>
                  </Command.Item>
                  {me?.writes && (
                    <Command.Item
                      value={`${elsewhere} changed`}
                      onSelect={go(() => navigate({ to: "/change", search: { from: asked } }))}
                      className={item}
                    >
                      <span className="min-w-0 flex-1 truncate">Change “{asked}” everywhere</span>
                    </Command.Item>
                  )}
                </Command.Group>
              )}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const heading =
  "[&_[cmdk-group-heading]]:px-4 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:pb-1 [&_[cmdk-group-heading]]:text-fine [&_[cmdk-group-heading]]:text-ink-2";
const item = "flex cursor-default items-center gap-3 px-4 py-1.5 data-[selected=true]:bg-marking-wash";
