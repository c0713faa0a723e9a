import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { FakeServer, No } from "../fakeServer";
import { showAt } from "../testing";
import { Restored } from "./Restored";

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const asked = { asked: true, made_at: "2026-01-10T22:00:00Z", restored_at: "2026-01-12T08:00:00Z", missing: 1 };

test("a lead is asked what came after the backup, and only then is it gone", async () => {
  let answered = false;
  const server = new FakeServer()
    .get("/api/restored", () => (answered ? { asked: false, missing: 0 } : asked))
    .post("/api/restored", (body) => {
      if (!body.erasures) return new No(422, "missing", "erasures", "Say whose facts were erased since.");
      answered = true;
      return { asked: false, missing: 0 };
    })
    .install();
  showAt("/", <Restored lead />);
  expect((await screen.findByTestId("restored")).textContent).toContain("1 picture was missing");
  fireEvent.change(screen.getByLabelText("Allergies and limits since then"), { target: { value: "none" } });
  fireEvent.change(screen.getByLabelText("Recalled or put aside lots"), { target: { value: "24-090" } });
  fireEvent.click(screen.getByText("That is all"));
  expect(await screen.findByText("Say whose facts were erased since.")).toBeTruthy();
  expect((screen.getByLabelText("Recalled or put aside lots") as HTMLInputElement).value).toBe("24-090");
  fireEvent.change(screen.getByLabelText("Facts that were erased"), { target: { value: "none" } });
  fireEvent.click(screen.getByText("That is all"));
  await waitFor(() => expect(screen.queryByTestId("restored")).toBeNull());
  expect(server.posted("/api/restored").at(-1)).toEqual({ allergies: "none", recalls: "24-090", erasures: "none" });
});

test("others read why nothing is recorded", async () => {
  new FakeServer().get("/api/restored", asked).install();
  showAt("/", <Restored lead={false} />);
  expect((await screen.findByTestId("restored")).textContent).toContain("until a lead has said");
  expect(screen.queryByText("That is all")).toBeNull();
});
