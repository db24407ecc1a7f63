import { Dialog } from "radix-ui";

/** KeyMap shows the keys of the screen in front. */
export function KeyMap({ keys, open, onOpenChange }: { keys: string[][]; open: boolean; onOpenChange: (v: boolean) => void }) {
  return (
    <Dialog.Root open={open} onOpenChange={onOpenChange}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="float dialog !w-[440px]" aria-describedby={undefined}>
          <Dialog.Title className="text-head">Keys</Dialog.Title>
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
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
