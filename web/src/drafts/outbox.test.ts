import { beforeEach, describe, expect, test } from "vitest";
import { fateOf, Outbox, type Parcel } from "./outbox";

class Memory implements Storage {
  private m = new Map<string, string>();
  get length() {
    return this.m.size;
  }
  clear() {
    this.m.clear();
  }
  getItem(k: string) {
    return this.m.get(k) ?? null;
  }
  key(i: number) {
    return [...this.m.keys()][i] ?? null;
  }
  removeItem(k: string) {
    this.m.delete(k);
  }
  setItem(k: string, v: string) {
    this.m.set(k, v);
  }
}

const parcel = (batch: string, client = "a"): Parcel<string> => ({ batch, client, base: 1, edits: [`edit of ${batch}`] });

describe("what counts as saved", () => {
  test.each([
    [200, { meta: { version: 7 } }, "saved"],
    [200, undefined, "again"], // an empty body
    [200, {}, "again"],
    [200, { meta: {} }, "again"],
    [200, "<html>sign in to the hotel’s network</html>", "again"],
    [204, undefined, "again"],
    [0, undefined, "again"],
    [401, { title: "Sign in first." }, "out"],
    [403, { title: "Writing takes the role author." }, "again"],
    [404, { title: "There is no such revision." }, "again"],
    [409, { title: "Two people", steps: [], version: 3 }, "clash"],
    [409, { title: "Revision 3 is latched and never changes." }, "refused"],
    [409, undefined, "again"],
    [422, { title: "That is no figure of an engine." }, "refused"],
    [422, undefined, "again"], // something in between said so, not the server
    [429, { title: "Too many attempts." }, "again"],
    [500, { title: "Something went wrong." }, "again"],
    [502, undefined, "again"],
    [503, { title: "The database did not answer." }, "again"],
  ] as const)("%i %j is %s", (status, body, fate) => {
    expect(fateOf(status, body)).toBe(fate);
  });
});

describe("an outbox", () => {
  let storage: Memory;
  beforeEach(() => {
    storage = new Memory();
  });
  const box = (client = "a", person = 1, to = "revision/4") => new Outbox<string>(storage, person, to, client);

  test("keeps parcels in order, across a reload", () => {
    const b = box();
    b.post(parcel("one"));
    b.post(parcel("two"));
    b.post(parcel("zero"), true);
    expect(box().all()).toEqual(b.all());
    expect(b.all().map((p) => p.batch)).toEqual(["zero", "one", "two"]);
    expect(b.pending()).toEqual(["edit of zero", "edit of one", "edit of two"]);
    b.drop("zero");
    expect(b.next()?.batch).toBe("one");
  });

  test("leaves nothing behind when it is empty", () => {
    const b = box();
    b.post(parcel("one"));
    b.drop("one");
    expect(storage.length).toBe(0);
  });

  test("does not send what was refused until the person says so", () => {
    const b = box();
    b.post(parcel("one"));
    b.post(parcel("two"));
    b.setAside("one", "that step is gone");
    expect(b.next()?.batch).toBe("two");
    expect(b.pending()).toEqual(["edit of two"]);
    expect(box().all()[0].why).toBe("that step is gone");
    b.takeUp("one", 9);
    expect(b.next()).toMatchObject({ batch: "one", base: 9 });
  });

  test("takes over what a window that is gone has left, under its own name", () => {
    box("dead").post(parcel("left", "dead"));
    box("alive").post(parcel("theirs", "alive"));
    const b = box("me");
    b.post(parcel("mine", "me"));
    expect(b.adopt((c) => c === "alive")).toBe(true);
    expect(b.all().map((p) => [p.batch, p.client])).toEqual([
      ["left", "dead"],
      ["mine", "me"],
    ]);
    expect(box("alive").all()).toHaveLength(1);
    expect(b.adopt((c) => c === "alive")).toBe(false);
    expect(box("me").all()).toHaveLength(2);
  });

  test("never takes what is another person’s, or another page’s", () => {
    box("dead", 2).post(parcel("theirs"));
    box("dead", 1, "revision/44").post(parcel("elsewhere"));
    const b = box("me");
    expect(b.adopt(() => false)).toBe(false);
    expect(b.all()).toHaveLength(0);
    expect(storage.length).toBe(2);
  });

  test("reads what is damaged as nothing", () => {
    storage.setItem("outbox/1/revision/4/a", "{not json");
    expect(box().all()).toHaveLength(0);
    storage.setItem("outbox/1/revision/4/a", '[null, {"batch": 7}, {"batch": "ok", "edits": []}]');
    expect(box().all()).toHaveLength(1);
  });
});
