import { describe, expect, it, vi } from "vitest";
import { ask, Failure, onUnauthorised, signedInAgain } from "./client";

const refused = (status: number) => ({ error: { title: "Sign in first." }, response: new Response(null, { status }) });
const later = <T>(v: T) => {
  let go = () => {};
  const p = new Promise<T>((yes) => {
    go = () => yes(v);
  });
  return { p, go };
};

describe("ask", () => {
  it("unwraps an answer, and says what the server says", async () => {
    await expect(ask(Promise.resolve({ data: 7, response: new Response(null, { status: 200 }) }))).resolves.toBe(7);
    await expect(ask(Promise.resolve(refused(422)))).rejects.toThrow("Sign in first.");
    await expect(ask(Promise.reject(new Error("gone")))).rejects.toThrow("The server does not answer.");
    await expect(ask(Promise.resolve({ response: new Response(null, { status: 503 }) }))).rejects.toThrow(
      "The server answered 503.",
    );
  });

  it("tells of a session that has ended, not of one that a newer one has followed", async () => {
    const told = vi.fn();
    onUnauthorised(told);
    await expect(ask(Promise.resolve(refused(401)))).rejects.toBeInstanceOf(Failure);
    expect(told).toHaveBeenCalledTimes(1);
    await expect(ask(Promise.resolve(refused(401)), true)).rejects.toBeInstanceOf(Failure);
    expect(told).toHaveBeenCalledTimes(1);

    const late = later(refused(401));
    const asked = ask(late.p);
    signedInAgain();
    late.go();
    await expect(asked).rejects.toBeInstanceOf(Failure);
    expect(told, "asked before the sign-in, refused after it").toHaveBeenCalledTimes(1);

    await expect(ask(Promise.resolve(refused(401)))).rejects.toBeInstanceOf(Failure);
    expect(told).toHaveBeenCalledTimes(2);
  });
});
