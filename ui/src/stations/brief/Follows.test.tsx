import { ChakraProvider } from "@chakra-ui/react";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { MemoryRouter } from "react-router";
import { afterEach, describe, expect, it, vi } from "vitest";
import { Problem, type Schemas } from "../../app/api";
import { KeysProvider } from "../../app/keys";
import { system } from "../../app/theme";
import { Foot, Told } from "./Follows";
import type { BriefDraft, View } from "./useBrief";

afterEach(cleanup);

const finding = (id: string, severity: "never" | "stop" | "warn" | "tip") => ({ id, severity, reason: `${id} says no.`, remedy: "Move it." });

const view = (findings: Schemas["CraftWearmapFinding"][], state: Partial<View["state"]> = {}) =>
  ({
    state: { base: 0, step: 1, last: 1, latest: 0, drafted: true, others: [], ...state },
    map: {
      findings,
      cm2: 34,
      worn_cm2: 60,
      sight: "left",
      hearing: "both",
      breath: "mouth",
      areas: [],
      edges: [],
      openings: [{ name: "left nostril", text: "left nostril", wide_mm: 8, high_mm: 6, open: 0.4, pass: false, asked: true, covered_by: ["GC-01"] }],
      overlaps: [{ a: "AL-01", b: "AL-02", cm2: 1.25 }],
      gaps: [],
      hair: [],
    },
    wear: { findings: [] },
  }) as unknown as View;

function draft(v: View, over: Partial<BriefDraft> = {}): BriefDraft {
  return {
    doc: undefined,
    view: v,
    problem: undefined,
    waiting: false,
    change: vi.fn(),
    touch: vi.fn(),
    undo: vi.fn(),
    redo: vi.fn(),
    drop: vi.fn(),
    settle: vi.fn(),
    agree: vi.fn(async () => undefined),
    ...over,
  } as unknown as BriefDraft;
}

function foot(d: BriefDraft, role: "lead" | "fabricator" = "lead") {
  const queries = new QueryClient();
  queries.setQueryData(["me"], { person: { id: 1, name: "x", role } });
  const piece = { code: "GC-01" } as Schemas["PieceView"];
  render(
    <ChakraProvider value={system}>
      <QueryClientProvider client={queries}>
        <MemoryRouter>
          <KeysProvider>
            <Foot piece={piece} draft={d} show={() => {}} />
          </KeysProvider>
        </MemoryRouter>
      </QueryClientProvider>
    </ChakraProvider>,
  );
}

describe("what holds a brief back", () => {
  it("lets a lead sign a stop with a reason, and sends nothing without one", async () => {
    const d = draft(view([finding("MAP-1", "stop")]));
    foot(d);
    fireEvent.click(screen.getByText("Agree the brief"));
    await vi.waitFor(() => expect(d.agree).toHaveBeenLastCalledWith([]));
    fireEvent.change(screen.getByLabelText("MAP-1: signed reason"), { target: { value: "ten minutes only" } });
    fireEvent.click(screen.getByText("Agree the brief"));
    await vi.waitFor(() => expect(d.agree).toHaveBeenLastCalledWith([{ id: "MAP-1", reason: "ten minutes only" }]));
  });

  it("offers nobody to sign a never, and a fabricator no stop", () => {
    foot(draft(view([finding("SAF-4", "never"), finding("MAP-1", "stop")])), "fabricator");
    expect(screen.getByText("2 to settle")).toBeTruthy();
    expect(screen.queryByLabelText("MAP-1: signed reason")).toBeNull();
    cleanup();
    foot(draft(view([finding("SAF-4", "never")])));
    expect(screen.queryByLabelText("SAF-4: signed reason")).toBeNull();
  });

  it("goes on to the section once it is agreed", () => {
    foot(draft(view([], { drafted: false, latest: 2, step: 0, last: 0 })));
    expect(screen.getByText("Draw the section")).toBeTruthy();
    expect((screen.getByText("Undo").closest("button") as HTMLButtonElement).disabled).toBe(true);
  });

  it("lets two people's versions be chosen between", () => {
    const problem = new Problem(409, "newer_agreed", "", "Ivo agreed a newer version meanwhile.", {
      yours: {},
      theirs: {},
      who: "Ivo",
      state: { latest: 3 },
    });
    const d = draft(view([]), { problem });
    foot(d);
    fireEvent.click(screen.getByText("Keep mine over it"));
    expect(d.settle).toHaveBeenLastCalledWith(true);
    fireEvent.click(screen.getByText("Take the other"));
    expect(d.settle).toHaveBeenLastCalledWith(false);
  });
});

describe("what follows from the map", () => {
  it("is said in words", () => {
    render(
      <ChakraProvider value={system}>
        <Told view={view([finding("SAF-5", "warn")])} />
      </ChakraProvider>,
    );
    const text = document.body.textContent ?? "";
    expect(text).toContain("34.0 cm² here, 60 cm² worn in all");
    expect(text).toContain("Sees with the left eye, hears with both ears, breathes through mouth.");
    expect(text).toContain("left nostril: 40 % free (8 × 6 mm), under GC-01.");
    expect(text).toContain("AL-01 and AL-02 share 1.3 cm².");
    expect(text).toContain("SAF-5 warn");
  });
});
