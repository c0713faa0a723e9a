import { Box, Checkbox, Flex, Grid, Input } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { useAct } from "../../app/act";
import { api, ask, offline, Problem, type Schemas } from "../../app/api";
import { createSaver } from "../../app/saver";
import { Choose, Entry, Go, Heading, Plain, Refusal } from "../../parts/controls";

type Doc = Schemas["PieceBrief"];

const free = ["left eye", "right eye", "nose", "mouth", "hearing"];

/** What was asked for, as a draft that saves itself. */
export function BriefForm({ code }: { code: string; region: string }) {
  const params = { params: { path: { code } } };
  const query = useQuery({ queryKey: ["brief", code], queryFn: () => ask(api.GET("/api/pieces/{code}/brief", params)) });
  const [doc, setDoc] = useState<Doc>();
  const [state, setState] = useState<Schemas["PieceState"]>();
  const [problem, setProblem] = useState<Problem>();
  const [waiting, setWaiting] = useState(false);
  const step = useRef({ base: 0, step: 0 });
  const timer = useRef<number>(undefined);
  const navigate = useNavigate();
  const saver = useMemo(
    () =>
      createSaver<Doc>(async (next) => {
        const { base, step: at } = step.current;
        const view = await ask(api.PUT("/api/pieces/{code}/brief", { params: { path: { code } }, body: { doc: next, base, step: at } }));
        step.current = view.state;
        setState(view.state);
      }),
    [code],
  );

  useEffect(() => {
    if (!query.data || saver.pending) return;
    setDoc(query.data.doc);
    setState(query.data.state);
    step.current = query.data.state;
  }, [query.data, saver]);

  const save = async (): Promise<boolean> => {
    window.clearTimeout(timer.current);
    try {
      await saver.flush();
      setProblem(undefined);
      setWaiting(false);
      return true;
    } catch (e) {
      const p = e instanceof Problem ? e : offline();
      setProblem(p);
      if (p.status === 0) timer.current = window.setTimeout(() => void save(), 2_000);
      return false;
    }
  };
  const change = (part: Partial<Doc>) => {
    if (!doc) return;
    const next = { ...doc, ...part };
    setDoc(next);
    saver.set(next);
    setWaiting(true);
    window.clearTimeout(timer.current);
    timer.current = window.setTimeout(() => void save(), 500);
  };
  const agree = useAct(async () => {
    if (!(await save())) return;
    const view = await ask(api.POST("/api/pieces/{code}/brief/agree", params));
    step.current = view.state;
    navigate(`/piece/${code}`);
  });
  if (!doc || !state) return null;
  return (
    <Box>
      <Heading
        aside={waiting ? "not saved yet" : state.drafted ? "draft saved" : state.latest ? `§${state.latest}, agreed by ${state.agreed_by}` : "new"}
      >
        Asked for
      </Heading>
      <Entry label="In their words" name="asked" rows={2} value={doc.asked} set={(asked) => change({ asked })} problem={problem} />
      <Box h="8px" />
      <Entry label="Decided about it" name="decided" rows={2} value={doc.decided} set={(decided) => change({ decided })} problem={problem} />
      <Grid templateColumns="1fr 1fr 1fr" gap="10px" mt="10px">
        <Choose label="Camera" name="camera" value={doc.camera} set={(camera) => change({ camera: camera as Doc["camera"] })} problem={problem}>
          <option value="close">close</option>
          <option value="medium">medium</option>
          <option value="far">far</option>
        </Choose>
        <NumberEntry label="Worn, hours" name="wear_hours" value={doc.wear_hours} set={(wear_hours) => change({ wear_hours })} problem={problem} />
        <NumberEntry label="Skin area, cm²" name="area_cm2" value={doc.area_cm2} set={(area_cm2) => change({ area_cm2 })} problem={problem} />
      </Grid>
      <Box h="8px" />
      <Entry label="Where exactly, and what stays clear of it" name="worn" value={doc.worn} set={(worn) => change({ worn })} problem={problem} />
      <Box color="muted" fontSize="13.5px" fontWeight="500" mt="12px" mb="4px">
        Must stay free
      </Box>
      <Flex gap="14px" wrap="wrap">
        {free.map((f) => (
          <Checkbox.Root
            key={f}
            checked={doc.keep_free.includes(f)}
            onCheckedChange={(e) => change({ keep_free: e.checked ? [...doc.keep_free, f] : doc.keep_free.filter((x) => x !== f) })}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" />
            <Checkbox.Label>{f}</Checkbox.Label>
          </Checkbox.Root>
        ))}
      </Flex>
      <Features list={doc.features} set={(features) => change({ features })} />
      <Flex gap="12px" mt="12px" py="8px" align="center" wrap="wrap" position="sticky" bottom="0" bg="ground">
        {state.drafted || waiting || state.latest === 0 ? (
          <Go
            act={() => {
              if (!state.drafted && !waiting) saver.set(doc);
              void agree.run();
            }}
            disabled={agree.busy}
          >
            Agree the brief
          </Go>
        ) : (
          <Go act={() => navigate(`/piece/${code}`)}>Draw the section</Go>
        )}
        <Refusal problem={agree.problem ?? problem} fields={["asked", "decided", "camera", "wear_hours", "area_cm2", "worn"]} />
      </Flex>
    </Box>
  );
}

function NumberEntry({
  label,
  name,
  value,
  set,
  problem,
}: {
  label: string;
  name: string;
  value: number;
  set: (n: number) => void;
  problem?: Problem;
}) {
  const [text, setText] = useState(String(value));
  useEffect(() => setText((t) => (Number(t) === value ? t : String(value))), [value]);
  const wrong = text.trim() === "" || Number.isNaN(Number(text)) ? new Problem(422, "not_a_number", name, "Write a number.") : problem;
  return (
    <Entry
      label={label}
      name={name}
      value={text}
      problem={wrong}
      set={(t) => {
        setText(t);
        if (t.trim() !== "" && !Number.isNaN(Number(t))) set(Number(t));
      }}
    />
  );
}

function Features({ list, set }: { list: Schemas["PieceCheck"][]; set: (next: Schemas["PieceCheck"][]) => void }) {
  const [text, setText] = useState("");
  const add = () => {
    if (text.trim() === "") return;
    set([...list, { text: text.trim(), done: false }]);
    setText("");
  };
  return (
    <Box mt="14px">
      <Heading>Must not be left out</Heading>
      <Flex gap="6px 18px" wrap="wrap">
        {list.map((f, i) => (
          <Checkbox.Root
            key={f.text}
            checked={f.done}
            onCheckedChange={(e) => set(list.map((x, j) => (j === i ? { ...x, done: e.checked === true } : x)))}
          >
            <Checkbox.HiddenInput />
            <Checkbox.Control borderColor="ink" borderRadius="full" />
            <Checkbox.Label>{f.text}</Checkbox.Label>
          </Checkbox.Root>
        ))}
      </Flex>
      <Flex gap="8px" mt="8px">
        <Input
          h="36px"
          px="10px"
          bg="sheet"
          borderColor="line"
          placeholder="one feature of the reference"
          aria-label="A feature that must not be left out"
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && add()}
        />
        <Plain h="36px" onClick={add}>
          Add
        </Plain>
      </Flex>
    </Box>
  );
}
