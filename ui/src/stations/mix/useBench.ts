import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { outbox, useWaiting } from "../../app/outbox";
import { useRead } from "../../app/read";
import { useMe } from "../../app/reads";
import { useScale } from "../../app/useScale";

export type Mix = Schemas["MixView"];
export type Line = Mix["lines"][number];
export type StepView = Mix["steps"][number];

/**
 * A mix on the bench: how it stands, what the scale shows, what waits for the
 * server, and what is done at it.
 */
export function useBench(code: string) {
  const params = { params: { path: { code } } };
  const query = useRead({ queryKey: ["mix", code], queryFn: () => ask(api.GET("/api/mixes/{code}", params)), refetchInterval: 20_000 });
  const scale = useScale();
  const queries = useQueryClient();
  const [typed, setTyped] = useState("");
  const [key, setKey] = useState(() => crypto.randomUUID());
  const mix = query.data;
  const person = useMe().data?.person?.id ?? 0;
  const waiting = useWaiting(person).filter((w) => w.about.startsWith(`${code}/`) && !w.refused);
  const waits = (seq: number) => waiting.some((w) => w.about === `${code}/${seq}`);
  useEffect(
    () =>
      outbox.onAnswer((w, answer) => {
        if (w.about.startsWith(`${code}/`) && answer) queries.setQueryData(["mix", code], answer as Mix);
      }),
    [code, queries],
  );
  const begin = useAct((confirmed: string[]) => ask(api.POST("/api/mixes/{code}/begin", { ...params, body: { confirmed } })));
  const tare = useAct(() => ask(api.POST("/api/mixes/{code}/tare", params)));
  const weigh = useAct(async (seq: number, text?: string) => {
    if (text === undefined) {
      queries.setQueryData(["mix", code], await ask(api.POST("/api/mixes/{code}/weigh", { ...params, body: { seq, key } })));
    } else {
      // A typed weight can wait for the server; the scale's is the server's own.
      const name = mix?.lines.find((l) => l.seq === seq)?.name ?? "";
      await outbox.add({
        key,
        person,
        path: `/api/mixes/${code}/weigh`,
        body: { seq, typed: text },
        words: `${text} of ${name} into ${code}`,
        about: `${code}/${seq}`,
      });
    }
    // Only an answered or waiting weigh-in gets a new key: one sent again counts once.
    setKey(crypto.randomUUID());
    // What is typed for the next part meanwhile stays.
    setTyped((t) => (text === undefined || t === text ? "" : t));
  });
  // What waits for the server is in the cup all the same: the next part comes.
  const line = waiting.length === 0 ? mix?.lines.find((l) => l.seq === mix.current) : mix?.lines.find((l) => !l.done && !waits(l.seq));
  const step = waiting.length === 0 ? mix?.steps.find((t) => t.seq === mix.current) : undefined;
  const { reading } = scale;
  const pouredG = mix && reading?.connected && reading.unit === "g" ? Math.max(0, mix.carried_g + reading.value - mix.base_g) : 0;
  return { mix, failed: query.error, line, step, pouredG, scale, waiting: waiting.length > 0, waits, typed, setTyped, begin, tare, weigh };
}
