import { Box, Flex } from "@chakra-ui/react";
import { useRef, useState } from "react";
import { useAct } from "../../app/act";
import { api, ask, type Schemas } from "../../app/api";
import { Plain } from "../../parts/controls";

type Handling = Schemas["MixHandling"];

/** The hands for the simulated scale: pour by holding, drip, take off, pull the plug. */
export function ScaleStandIn() {
  const [bad, setBad] = useState<Pick<Handling, "unplugged" | "stuck" | "unit">>({});
  const send = useAct((h: Handling) => ask(api.POST("/api/scale/simulated", { body: h })));
  const pouring = useRef(false);
  const hold = (rate: number) => ({
    onPointerDown: (e: React.PointerEvent) => {
      (e.currentTarget as Element).setPointerCapture(e.pointerId);
      pouring.current = true;
      void send.run({ ...bad, pour_g_s: rate });
    },
    onPointerUp: () => {
      pouring.current = false;
      void send.run({ ...bad });
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      if ((e.key === " " || e.key === "Enter") && !e.repeat) {
        e.preventDefault();
        void send.run({ ...bad, pour_g_s: rate });
      }
    },
    onKeyUp: (e: React.KeyboardEvent) => {
      if (e.key === " " || e.key === "Enter") void send.run({ ...bad });
    },
  });
  const spoil = (next: typeof bad) => {
    setBad(next);
    void send.run({ ...next, unit: next.unit ?? "g" });
  };
  const small = { h: "34px", px: "13px", fontSize: "14px" };
  return (
    <Box mt="auto" borderTopWidth="1px" borderStyle="dashed" borderColor="line" pt="8px">
      <Box layerStyle="small" mb="5px">
        Simulated scale: your hands
      </Box>
      <Flex gap="7px" wrap="wrap">
        <Plain {...small} {...hold(9)}>
          hold to pour
        </Plain>
        <Plain {...small} {...hold(1.5)}>
          hold to trickle
        </Plain>
        <Plain {...small} onClick={() => void send.run({ ...bad, put_g: 0.2 })}>
          a drip
        </Plain>
        <Plain {...small} onClick={() => void send.run({ ...bad, put_g: 8 })}>
          cup on
        </Plain>
        <Plain {...small} onClick={() => void send.run({ ...bad, clear: true })}>
          all off
        </Plain>
        <Plain {...small} aria-pressed={!!bad.unplugged} onClick={() => spoil({ unplugged: !bad.unplugged })}>
          {bad.unplugged ? "plug in" : "pull the plug"}
        </Plain>
        <Plain {...small} aria-pressed={!!bad.stuck} onClick={() => spoil({ stuck: !bad.stuck })}>
          {bad.stuck ? "unstick" : "stick"}
        </Plain>
        <Plain {...small} aria-pressed={bad.unit === "oz"} onClick={() => spoil({ unit: bad.unit === "oz" ? "g" : "oz" })}>
          {bad.unit === "oz" ? "grams" : "ounces"}
        </Plain>
      </Flex>
    </Box>
  );
}
