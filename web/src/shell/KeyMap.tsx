import { Dialog } from "radix-ui";
import { useSingleKeys } from "./keys";

/** KeyMap shows the keys of the screen in front. */
export function KeyMap({ keys, open, onOpenChange }: { keys: string[][]; open: boolean; onOpenChange: (v: boolean) => void }) {
  const [single, setSingle] = useSingleKeys();
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog !w-[460px]" aria-describedby={undefined}>
          <div className="flex items-baseline">
            <Dialog.Title className="text-head">Keys</Dialog.Title>
            <Dialog.Close className="button quiet ml-auto">Close</Dialog.Close>
          </div>
          <dl className="mt-3 grid grid-cols-[120px_1fr] gap-y-1.5">
            {keys.map(([k, what]) => (
              <div key={k} className="contents">
                <dt>
                  {k.split(" ").map((p) => (
                    <span key={p} className="key mr-1">
                      {p}
                    </span>
                  ))}
                </dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <label className="mt-4 flex items-baseline gap-2 border-t border-rule pt-3">
            <input type="checkbox" checked={single} onChange={(e) => setSingle(e.target.checked)} />
            <span>
              Keys of a single letter or sign work
              <span className="block text-small text-ink-2">
                Switch them off where speech is typed for you; everything is in Find or do, Ctrl K, too.
              </span>
            </span>
          </label>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
