// @vitest-environment node
import { describe, expect, it } from "vitest";
import { createSaver } from "./saver";

describe("saving a draft", () => {
  it("sends one at a time and the newest last", async () => {
    const sent: string[] = [];
    let open = 0;
    const saver = createSaver<string>(async (doc) => {
      open++;
      expect(open).toBe(1);
      await new Promise((r) => setTimeout(r, 5));
      sent.push(doc);
      open--;
    });
    saver.set("a");
    const first = saver.flush();
    saver.set("b");
    void saver.flush();
    saver.set("c");
    await Promise.all([first, saver.flush()]);
    expect(sent.at(0)).toBe("a");
    expect(sent.at(-1)).toBe("c");
    expect(saver.pending).toBeUndefined();
  });

  it("keeps what could not be sent, and sends it when asked again", async () => {
    let broken = true;
    const saver = createSaver<string>(async () => {
      if (broken) throw new Error("no connection");
    });
    saver.set("kept");
    await expect(saver.flush()).rejects.toThrow("no connection");
    expect(saver.pending).toBe("kept");
    broken = false;
    await saver.flush();
    expect(saver.pending).toBeUndefined();
  });
});
