import { createContext, type ReactNode, useCallback, useContext, useEffect, useMemo, useRef, useState } from "react";

// Single keys act only while no field or control has the focus, can be
// switched off, and never fire from the burst of characters of a scanner or a
// scale: a key waits a moment, and a second one in that moment cancels both.
const BURST_MS = 45;

type Action = { label: string; run: () => void };

interface Keys {
  on: boolean;
  setOn: (on: boolean) => void;
  bind: (key: string, action: Action) => () => void;
  list: () => [string, string][];
}

const Context = createContext<Keys | null>(null);

function busyControl(): boolean {
  const el = document.activeElement;
  if (!el || el === document.body) return false;
  return !!el.closest("input, textarea, select, button, a, [role=button], [contenteditable=true], [role=option], [role=dialog]");
}

export function KeysProvider({ children }: { children: ReactNode }) {
  const [on, setOnState] = useState(() => localStorage.getItem("yewmoor.keys") !== "off");
  const actions = useRef(new Map<string, Action[]>());
  const setOn = useCallback((next: boolean) => {
    localStorage.setItem("yewmoor.keys", next ? "on" : "off");
    setOnState(next);
  }, []);
  const bind = useCallback((key: string, action: Action) => {
    const stack = actions.current.get(key) ?? [];
    actions.current.set(key, [...stack, action]);
    return () =>
      actions.current.set(
        key,
        (actions.current.get(key) ?? []).filter((a) => a !== action),
      );
  }, []);
  const list = useCallback(
    () =>
      [...actions.current].filter(([, stack]) => stack.length > 0).map(([key, stack]) => [key, stack[stack.length - 1].label] as [string, string]),
    [],
  );

  useEffect(() => {
    let waiting: number | undefined;
    let last = 0;
    const listen = (e: KeyboardEvent) => {
      if (e.key === "Escape") {
        actions.current.get("Escape")?.at(-1)?.run();
        return;
      }
      if (!on || e.ctrlKey || e.metaKey || e.repeat || (busyControl() && !e.altKey)) return;
      const key = (e.altKey ? "Alt+" : "") + (e.key === " " ? "Space" : e.key.length === 1 ? e.key.toUpperCase() : e.key);
      // When the key was struck, not when a busy page came round to it.
      const burst = e.timeStamp - last < BURST_MS;
      last = e.timeStamp;
      window.clearTimeout(waiting);
      if (burst) return;
      const action = actions.current.get(key)?.at(-1);
      if (!action) return;
      e.preventDefault();
      if (e.key.startsWith("Arrow") || e.altKey) {
        action.run();
        return;
      }
      waiting = window.setTimeout(() => action.run(), BURST_MS);
    };
    window.addEventListener("keydown", listen);
    return () => {
      window.clearTimeout(waiting);
      window.removeEventListener("keydown", listen);
    };
  }, [on]);

  const value = useMemo(() => ({ on, setOn, bind, list }), [on, setOn, bind, list]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export function useKeys(): Keys {
  const keys = useContext(Context);
  if (!keys) throw new Error("KeysProvider is missing");
  return keys;
}

/** Binds a key while the component is there; the last one bound wins. */
export function useKey(key: string, label: string, run: (() => void) | undefined) {
  const { bind } = useKeys();
  const latest = useRef(run);
  latest.current = run;
  const active = run !== undefined;
  useEffect(() => (active ? bind(key, { label, run: () => latest.current?.() }) : undefined), [key, label, active, bind]);
}
