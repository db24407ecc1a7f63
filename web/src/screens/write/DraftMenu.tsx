import { useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { api, ask, Failure, type S } from "../../api/client";
import { say } from "../../shell/toast";

/** DraftMenu is what can be done to a draft as a whole. */
export function DraftMenu({ meta, writes }: { meta: S["RevisionMeta"]; writes: boolean }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const path = { params: { path: { revision: meta.id } } };
  const told = async (what: Promise<unknown>, done: () => void) => {
    try {
      await what;
      client.invalidateQueries();
      done();
    } catch (e) {
      say(e instanceof Failure ? e.message : "That did not work.");
    }
  };
  if (meta.mayBringBack)
    return (
      <button
        type="button"
        className="button solid slim"
        onClick={() =>
          told(
            ask(api.POST("/api/revisions/{revision}/back", path)).then((back) => {
              if (back.revision === meta.id) return say(`Revision ${meta.number} is a draft again`);
              navigate({ to: "/revisions/$revision", params: { revision: String(back.revision) } });
              say(`A later revision was released since. Draft ${meta.number} is taken up as a new one, against what holds now`);
            }),
            () => undefined,
          )
        }
      >
        Bring the draft back
      </button>
    );
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="button quiet slim">More</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="float z-50 min-w-[220px] py-1">
          <DropdownMenu.Item className={item} onSelect={() => window.location.assign(`/api/revisions/${meta.id}/export`)}>
            Export as a latch file
          </DropdownMenu.Item>
          {writes && (
            <DropdownMenu.Item
              className={item}
              onSelect={() => navigate({ to: "/revisions/$revision/copy", params: { revision: String(meta.id) } })}
            >
              Copy to another engine code…
            </DropdownMenu.Item>
          )}
          {meta.mayDelete && (
            <DropdownMenu.Item
              className={`${item} text-clash`}
              onSelect={() =>
                told(ask(api.DELETE("/api/revisions/{revision}", path)), () => {
                  navigate({ to: "/procedures" });
                  say("The draft is deleted. It stands under “Deleted drafts” and can be brought back.");
                })
              }
            >
              Delete this draft
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

const item = "cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash";
