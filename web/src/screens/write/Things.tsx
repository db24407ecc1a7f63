import { Command } from "cmdk";
import { Popover } from "radix-ui";
import { useState } from "react";
import type { S } from "../../api/client";

type Thing = S["Drawing"]["things"][number];

/** Things picks one or several things of the engine sheet by name. */
export function Things({
  label,
  all,
  kinds,
  value,
  several,
  onChange,
}: {
  label: string;
  all: Thing[];
  kinds: string[];
  value: string[];
  several: boolean;
  onChange: (v: string[]) => void;
}) {
  const [open, setOpen] = useState(false);
  const offered = all.filter((t) => kinds.includes(t.kind));
  const nameOf = (id: string) => offered.find((t) => t.id === id)?.name ?? `“${id}”`;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger className="chip" aria-label={`${label}: ${value.map(nameOf).join(", ") || "none"}`}>
        <span className="text-ink-2">{label}</span>{" "}
        {value.length ? value.map(nameOf).join(", ") : <span className="text-ink-3">choose…</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content className="float z-50 w-[300px]" align="start" sideOffset={4}>
          <Command loop>
            <Command.Input
              autoFocus
              placeholder={`Find ${label}`}
              className="w-full border-b border-rule bg-transparent px-3 py-2 outline-none"
            />
            <Command.List className="max-h-[260px] overflow-auto py-1">
              <Command.Empty className="px-3 py-3 text-ink-2">Nothing on this sheet has that name.</Command.Empty>
              {value.length > 0 && !several && (
                <Command.Item
                  className={item}
                  onSelect={() => {
                    onChange([]);
                    setOpen(false);
                  }}
                >
                  <span className="text-ink-2">none</span>
                </Command.Item>
              )}
              {offered.map((t) => {
                const on = value.includes(t.id);
                return (
                  <Command.Item
                    key={t.ref}
                    value={`${t.name} ${t.detail ?? ""} ${t.id}`}
                    className={item}
                    onSelect={() => {
                      if (several) onChange(on ? value.filter((v) => v !== t.id) : [...value, t.id]);
                      else {
                        onChange([t.id]);
                        setOpen(false);
                      }
                    }}
                  >
                    <span className="w-4 text-marking">{on ? "✓" : ""}</span>
                    <span className="flex-1">{t.name}</span>
                    <span className="truncate text-fine text-ink-2">{t.detail}</span>
                  </Command.Item>
                );
              })}
            </Command.List>
          </Command>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

const item = "flex cursor-default items-center gap-2 px-3 py-1 data-[selected=true]:bg-marking-wash";
